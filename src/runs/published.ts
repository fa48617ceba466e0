import { PlanBuilder } from "@/core/plan/build";
import { keepColumns } from "@/core/relation/relation";
import { pageQuestion } from "@/core/questions/page";
import { prune } from "@/core/relation/prune";
import { modelById } from "@/store/models";
import type { PipelineRow } from "@/store/pipelines";
import type { Context } from "./context";
import { beginningOf } from "./publish";
import { planOfVersion } from "./version-plan";

interface Parameter {
  readonly name: string;
  /** As the warehouse writes it. */
  readonly type: string;
}

/** A function of a pipeline in the warehouse, as somebody who asks it has to know it. */
export interface PublishedFunction {
  readonly schema: string;
  readonly name: string;
  readonly parameters: readonly Parameter[];
  /** What it gives, as the warehouse writes it. */
  readonly returns: string;
  readonly comment: string;
  /** A call with the values of a row that there is, to be run as it stands. */
  readonly example: string;
}

/** The functions of a pipeline that are there, those that follow the service first; none where nothing is in service. */
export async function publishedFunctions(
  context: Context,
  pipeline: Pick<PipelineRow, "name" | "inService">,
): Promise<readonly PublishedFunction[]> {
  const { store, warehouse } = context;
  const model = pipeline.inService === null ? undefined : await modelById(store.db, pipeline.inService);
  if (!model) return [];
  const { outputSchema } = warehouse.config;
  const described = await warehouse.functions.describe(beginningOf(pipeline.name));
  const functions = described.map((found) => ({ schema: outputSchema, ...found }));
  const wanted = [...new Set(functions.flatMap(({ parameters }) => parameters.map(({ name }) => name)))];
  const values = await valuesBefore(context, await planOfVersion(context, model), wanted);
  return functions.map((found) => ({
    ...found,
    example: warehouse.functions.callText(
      found.name,
      found.parameters.map(({ name, type }) => ({ name, type, value: values.get(name) ?? null })),
    ),
  }));
}

/** Values of a row as it is before the first step that learns. */
async function valuesBefore(
  { warehouse, now }: Context,
  plan: Awaited<ReturnType<typeof planOfVersion>>,
  columns: readonly string[],
): Promise<ReadonlyMap<string, string | null>> {
  const relation = new PlanBuilder(plan).strand(plan.main.name, plan.learnsFrom);
  const narrow = prune(keepColumns(relation, columns), new Set(columns));
  const { rows } = await warehouse.ask(pageQuestion(narrow, "an example of a call", { rows: 1 }), {
    runTime: (await now()).toISOString(),
    milliseconds: 20_000,
  });
  return new Map(columns.map((name, index) => [name, rows[0]?.[index] ?? null]));
}
