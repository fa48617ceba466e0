import { problem, type Problem } from "@/core/problem";
import type { Database } from "@/store/database";
import { holderOfName } from "@/store/pipeline-lives";
import type { PipelineRow } from "@/store/pipelines";

/** Why a name cannot be given to a pipeline: another has it, or has delivered under it before. */
export async function whyTaken(
  db: Pick<Database, "select">,
  name: string,
  except?: number,
): Promise<Problem | undefined> {
  const holder = await holderOfName(db, name, except);
  return (
    holder &&
    problem(
      "name_taken",
      holder.name === name
        ? `A pipeline named "${name}" already exists.`
        : `"${holder.name}" was named "${name}" before, and has delivered under that name.`,
      "Choose another name.",
      { path: ["name"] },
    )
  );
}

/** That nothing can be done any more with a pipeline that was deleted; undefined while it is there. */
export const whyEnded = ({
  name,
  deletedAt,
}: Pick<PipelineRow, "name" | "deletedAt">): Problem | undefined =>
  deletedAt === null
    ? undefined
    : problem(
        "pipeline_deleted",
        `The pipeline "${name}" was deleted.`,
        "Download its file from the page of one of its versions, and make a new pipeline of it.",
      );
