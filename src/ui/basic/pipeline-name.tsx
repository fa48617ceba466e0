import type { PipelineRow } from "@/store/pipelines";
import { PageLink } from "./page-link";

/** The name of a pipeline, which leads to one of its stages; of a deleted one, its name and that it is. */
export function PipelineName({
  pipeline: { name, deletedAt },
  stage,
  className = "",
}: {
  readonly pipeline: Pick<PipelineRow, "name" | "deletedAt">;
  readonly stage: string;
  readonly className?: string;
}) {
  if (deletedAt !== null)
    return (
      <>
        {name} <span className="font-normal text-faded">(deleted)</span>
      </>
    );
  return (
    <PageLink className={className} href={`/pipelines/${encodeURIComponent(name)}/${stage}`}>
      {name}
    </PageLink>
  );
}
