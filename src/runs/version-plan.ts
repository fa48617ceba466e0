import type { ParsedPipeline } from "@/core/pipeline/parse";
import { withStepChoices } from "@/core/pipeline/edit/step-choices";
import type { Catalog } from "@/core/plan/catalog";
import { checkPipeline, type PlanPurpose } from "@/core/plan/check";
import type { CheckedPlan } from "@/core/plan/plan";
import { problem, ProblemError, unwrap } from "@/core/problem";
import type { ModelRow } from "@/store/models";
import { versionById } from "@/store/pipelines";
import type { Context } from "./context";
import { withoutFeatures } from "./training/workshop";
import { parseFile } from "./parse-file";

/** What is different this time about a version's plan. */
export interface PlanChange {
  /** Another file that plans the same, such as one with newer deliveries; the version's own when left out. */
  readonly text?: string;
  readonly change?: (parsed: ParsedPipeline) => ParsedPipeline;
  /** Tables as they are to be taken for, in place of what they are now. */
  readonly tables?: (parsed: ParsedPipeline, catalog: Catalog) => Catalog;
  /** What the plan is for: to score, unless the rows that judged are wanted too. */
  readonly purpose?: PlanPurpose;
}

/** The plan that a version was made with: its file, the step settings that a search chose, and the features it did without. */
export async function planOfVersion(
  context: Context,
  model: Pick<ModelRow, "number" | "pipelineVersionId" | "data">,
  {
    text,
    change = (parsed) => parsed,
    tables = (_, catalog) => catalog,
    purpose = "scoring",
  }: PlanChange = {},
): Promise<CheckedPlan> {
  const own = text ?? (await versionById(context.store.db, model.pipelineVersionId))?.text;
  if (own === undefined)
    throw new ProblemError(problem("unknown_model", `The file of version ${model.number} no longer exists.`));
  const catalog = await context.warehouse.catalog.read();
  const check = async (of: string): Promise<CheckedPlan> => {
    const parsed = unwrap(await parseFile(of));
    return unwrap(checkPipeline(change(parsed), tables(parsed, catalog), purpose));
  };
  const written = await check(own);
  // What a search chose for steps belongs to the version as much as what the file says.
  const chosen = model.data.search?.choices.filter((choice) => choice.step !== undefined) ?? [];
  return withoutFeatures(
    chosen.length === 0 ? written : await check(unwrap(withStepChoices(own, written, chosen))),
    model.data.without ?? [],
  );
}
