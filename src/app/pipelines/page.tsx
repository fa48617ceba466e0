import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { listModels } from "@/store/models";
import { listPipelines, newestVersion } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { Empty } from "@/ui/basic/empty";
import { moment } from "@/ui/basic/format";
import { headline } from "@/ui/judge/headline";
import { PageTitle } from "@/ui/basic/page-title";
import { StateWord } from "@/ui/basic/state-word";
import { PageLink } from "@/ui/basic/page-link";

export const metadata: Metadata = { title: "Pipelines" };

export default async function PipelinesPage() {
  const { store } = await appContext();
  const pipelines = await Promise.all(
    (await listPipelines(store.db)).map(async (pipeline) => {
      const [version, models, runs] = await Promise.all([
        newestVersion(store.db, pipeline.id),
        listModels(store.db, pipeline.id),
        listRuns(store.db, { limit: 1, pipelineId: pipeline.id }),
      ]);
      return {
        pipeline,
        version,
        current: models.find((each) => each.id === pipeline.inService),
        models,
        last: runs[0],
      };
    }),
  );
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle
        title="Pipelines"
        actions={
          <PageLink className="press press-main" href="/pipelines/new">
            New pipeline
          </PageLink>
        }
      >
        Each is one file: how tables become features, a model, and predictions.
      </PageTitle>
      {pipelines.length === 0 && (
        <Empty title="No pipeline yet.">
          Write one here with “New pipeline”, or save a file: <code>./ravlen save FILE</code>.
        </Empty>
      )}
      <table className="sheet">
        {pipelines.length > 0 && (
          <thead>
            <tr>
              <th>Pipeline</th>
              <th className="number">File version</th>
              <th>In service</th>
              <th>On the holdout</th>
              <th>Last run</th>
              <th>Changed</th>
            </tr>
          </thead>
        )}
        <tbody>
          {pipelines.map(({ pipeline, version, current, models, last }) => (
            <tr key={pipeline.id}>
              <td>
                <PageLink
                  className="font-medium"
                  href={`/pipelines/${encodeURIComponent(pipeline.name)}/braid`}
                >
                  {pipeline.name}
                </PageLink>
                <br />
                <span className="text-faded">{pipeline.description}</span>
              </td>
              <td className="number">{version?.number}</td>
              <td>
                {current ? (
                  <PageLink href={`/models/${current.id}`}>version {current.number}</PageLink>
                ) : (
                  <span className="text-faded">{models.length === 0 ? "not trained yet" : "none"}</span>
                )}
              </td>
              <td className="figure">{current ? headline(current.metrics) : "–"}</td>
              <td>
                {last ? (
                  <PageLink className="no-underline" href={`/runs/${last.id}`}>
                    <StateWord state={last.state} />
                  </PageLink>
                ) : (
                  <span className="text-faded">none</span>
                )}
              </td>
              <td>{version && moment(version.createdAt)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
