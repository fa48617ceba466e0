import { formatCount, formatNumber } from "@/core/format/numbers";
import { factsOf, type Algorithm } from "@/core/learn/algorithms";
import type { ModelRow } from "@/store/models";
import type { PipelineRow } from "@/store/pipelines";
import { moment } from "@/ui/basic/format";
import { PageLink } from "@/ui/basic/page-link";
import { PageTitle } from "@/ui/basic/page-title";
import { PipelineName } from "@/ui/basic/pipeline-name";
import { ServiceButton } from "@/ui/deliver/service-button";

/** How many rows did not train since their answer is on neither side. */
function leftOutText(rows: number | undefined): string {
  return rows === undefined || rows === 0
    ? ""
    : `${formatCount(rows, "row")} with other target values excluded; `;
}

/** Which rows judged a version, in a few words. */
function judgedText({ data, judgement }: ModelRow): string {
  if (judgement?.rows === 0) return "not evaluated";
  return judgement?.insideFolds
    ? `evaluated by cross-validation on ${formatNumber(data.holdoutRows)} of them`
    : `evaluated on ${formatNumber(data.holdoutRows)} held out`;
}

/** A version by name, with what it was made from and evaluated on, and what can be done with it. */
export function VersionTitle({
  model,
  pipeline,
  file,
}: {
  readonly model: ModelRow;
  readonly pipeline: PipelineRow;
  /** Number of its file version. */
  readonly file: number;
}) {
  const { data } = model;
  const without = data.without ?? [];
  const title = data.algorithm ? factsOf(data.algorithm as Algorithm).title : "Logistic regression";
  return (
    <PageTitle
      title={
        <>
          <PipelineName className="no-underline hover:underline" pipeline={pipeline} stage="compare" />,
          version {model.number}
        </>
      }
      actions={
        pipeline.deletedAt === null && (
          <>
            <ServiceButton
              model={model.id}
              version={model.number}
              inService={pipeline.inService === model.id}
            />
            {pipeline.inService === model.id && (
              <PageLink
                className="press press-main"
                href={`/pipelines/${encodeURIComponent(pipeline.name)}/deliver`}
              >
                Deliver
              </PageLink>
            )}
          </>
        )
      }
    >
      {model.candidate} ({title}){without.length > 0 ? `, without ${without.join(", ")}` : ""}, trained{" "}
      <span title={`Trained ${moment(model.createdAt)} (computer’s clock)`}>
        as of {moment(model.runTime)}
      </span>{" "}
      on {formatNumber(data.trainingRows)} rows that{" "}
      {model.engine === "warehouse" ? "stayed in the warehouse" : "streamed to the worker"};{" "}
      {leftOutText(data.leftOut)}
      {judgedText(model)}. <PageLink href={`/runs/${model.runId}`}>The run</PageLink>,{" "}
      {pipeline.deletedAt === null ? (
        <PageLink href={`/pipelines/${encodeURIComponent(pipeline.name)}/history`}>
          file version {file}
        </PageLink>
      ) : (
        <a href={`/api/models/${model.id}/file`}>file version {file}</a>
      )}
      . Description: <a href={`/api/models/${model.id}/description?format=html`}>a page</a>,{" "}
      <a href={`/api/models/${model.id}/description`}>Markdown</a>.
    </PageTitle>
  );
}
