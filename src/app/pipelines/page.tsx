import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { PAGE_ROWS, readListRequest } from "@/server/list-request";
import { PIPELINE_FILTERS, pipelinePage, type PipelineFilter } from "@/store/pipeline-list";
import { Empty } from "@/ui/basic/empty";
import { moment } from "@/ui/basic/format";
import { ListPages, ListSearch } from "@/ui/basic/list-tools";
import { headline } from "@/ui/judge/headline";
import { PageTitle } from "@/ui/basic/page-title";
import { StateWord } from "@/ui/basic/state-word";
import { PageLink } from "@/ui/basic/page-link";
import { Sheet } from "@/ui/basic/sheet";

export const metadata: Metadata = { title: "Pipelines" };

const FILTERS: Readonly<Record<PipelineFilter, string>> = {
  in_service: "with a version in service",
  not_in_service: "without a version in service",
  failed: "whose last run failed",
};

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function PipelinesPage({ searchParams }: Props) {
  const { store } = await appContext();
  const asked = readListRequest(await searchParams, PIPELINE_FILTERS);
  const { entries, all } = await pipelinePage(store.db, { ...asked, limit: PAGE_ROWS });
  const place = { path: "/pipelines", ...asked };
  const isNarrowed = asked.words !== "" || asked.filter !== undefined;
  return (
    <div className="page pb-16">
      <PageTitle
        title="Pipelines"
        actions={
          <PageLink className="press press-main" href="/pipelines/new">
            New pipeline
          </PageLink>
        }
      >
        Each pipeline is one file that turns tables into features, a model and predictions.
      </PageTitle>
      {all === 0 && !isNarrowed ? (
        <Empty title="No pipelines yet.">
          Create one with New pipeline, or save a file: <code>./ravlen save FILE</code>.
        </Empty>
      ) : (
        <ListSearch place={place} what="pipelines" filters={FILTERS} />
      )}
      <Sheet>
        {entries.length > 0 && (
          <thead>
            <tr>
              <th>Pipeline</th>
              <th className="number">File version</th>
              <th>In service</th>
              <th>On the holdout</th>
              <th>Last run</th>
              <th className="real-time">Changed</th>
            </tr>
          </thead>
        )}
        <tbody>
          {entries.map(({ id, name, description, version, current, versions, last }) => (
            <tr key={id}>
              <td>
                <PageLink className="font-medium" href={`/pipelines/${encodeURIComponent(name)}/braid`}>
                  {name}
                </PageLink>
                <br />
                <span className="text-faded">{description}</span>
              </td>
              <td className="number">{version?.number}</td>
              <td>
                {current ? (
                  <PageLink href={`/models/${current.id}`}>version {current.number}</PageLink>
                ) : (
                  <span className="text-faded">{versions === 0 ? "not trained yet" : "none"}</span>
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
      </Sheet>
      {(all > 0 || isNarrowed) && <ListPages place={place} all={all} rows={PAGE_ROWS} one="pipeline" />}
    </div>
  );
}
