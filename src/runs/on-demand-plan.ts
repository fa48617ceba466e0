import { predictionDelivery } from "@/core/pipeline/deliveries";
import type { Catalog, CatalogTable } from "@/core/plan/catalog";
import {
  mainSource,
  onDemandContract,
  onDemandDelivery,
  onDemandPipeline,
  type OnDemand,
  type OnDemandContract,
} from "@/core/plan/on-demand";
import type { CheckedPlan } from "@/core/plan/plan";
import { fitsContract } from "@/core/plan/stand-in";
import type { ParsedPipeline } from "@/core/pipeline/parse";
import { failure, problem, success, warning, type Problem, type Result } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import type { ModelRow } from "@/store/models";
import type { Context } from "./context";
import { planOfVersion } from "./version-plan";

/** The plan that scores rows on demand, before it is known which rows, and what these have to have. */
export interface OnDemandPlan {
  readonly plan: CheckedPlan;
  readonly contract: OnDemandContract;
}

/** The tables of the warehouse, that of the main strand with the types that a version was trained with, even where it is gone by now. */
function asTrained(parsed: ParsedPipeline, catalog: Catalog, model: Pick<ModelRow, "data">): Catalog {
  const source = mainSource(parsed.file);
  const isSource = (other: TableReference): boolean =>
    other.schema === source?.schema && other.table === source.table;
  const trained = model.data.sources.find(isSource);
  if (!trained) return catalog;
  const columns = trained.columns.map((found) => ({ ...found, nullable: true }));
  const names = new Set(columns.map((found) => found.name));
  const now = catalog.tables.find(isSource)?.columns.filter((found) => !names.has(found.name)) ?? [];
  return {
    tables: [
      ...catalog.tables.filter((other) => !isSource(other)),
      { schema: trained.schema, table: trained.table, columns: [...columns, ...now] },
    ],
  };
}

/** The plan of a version over rows that are chosen later, with the types of its training. Problems: those of the pipeline. */
export async function openOnDemand(
  context: Context,
  model: Pick<ModelRow, "number" | "pipelineVersionId" | "data">,
  onDemand: OnDemand,
  text?: string,
): Promise<OnDemandPlan> {
  let declared: ReadonlyMap<string, string> = new Map();
  const plan = await planOfVersion(context, model, {
    ...(text === undefined ? {} : { text }),
    change: (parsed) =>
      onDemandPipeline(
        parsed,
        onDemandDelivery(onDemand, predictionDelivery(parsed.file.delivery)?.threshold ?? 0.5),
      ),
    tables: (parsed, catalog) => {
      const known = asTrained(parsed, catalog, model);
      const source = mainSource(parsed.file);
      const table = known.tables.find(
        (other) => other.schema === source?.schema && other.table === source.table,
      );
      declared = new Map(table?.columns.map((found) => [found.name, found.declared]));
      return known;
    },
  });
  return { plan, contract: onDemandContract(plan, declared) };
}

/** A plan with the chosen rows in it. */
export interface FilledPlan {
  readonly plan: CheckedPlan;
  /** Whether the rows have the answer. */
  readonly answered: boolean;
  /** Why an answer that is there cannot be read. */
  readonly unread?: Problem;
}

/**
 * Puts the rows of a table in, once their columns and types are found to be those of the contract.
 * Problems: columns_lacking, columns_retyped.
 */
export function fillOnDemand({ plan, contract }: OnDemandPlan, given: CatalogTable): Result<FilledPlan> {
  const columns = new Map(given.columns.map((found) => [found.name, found]));
  const name = `${given.schema}.${given.table}`;
  const lacking = contract.needed.filter((wanted) => !columns.has(wanted.name));
  const retyped = contract.needed.filter((wanted) => {
    const found = columns.get(wanted.name);
    return found !== undefined && !fitsContract(found, wanted);
  });
  const problems: Problem[] = [];
  if (lacking.length > 0)
    problems.push(
      problem(
        "columns_lacking",
        `${name} lacks ${lacking.map((wanted) => `"${wanted.name}" (${wanted.declared})`).join(", ")}, which features are computed from.`,
        `Rows to score need ${contract.needed.map((wanted) => wanted.name).join(", ")}.`,
      ),
    );
  if (retyped.length > 0)
    problems.push(
      problem(
        "columns_retyped",
        `${retyped.map((wanted) => `"${wanted.name}" of ${name} is ${columns.get(wanted.name)!.declared}, and was ${wanted.declared} in training`).join("; ")}.`,
        "Create the table with the types used in training, or load the file with them.",
      ),
    );
  if (problems.length > 0) return failure(...problems);
  const there = contract.answer.every((wanted) => columns.has(wanted.name));
  const unfit = contract.answer.find((wanted) => !fitsContract(columns.get(wanted.name) ?? wanted, wanted));
  return success({
    plan: {
      ...plan,
      standIn: {
        source: { schema: given.schema, table: given.table },
        columns: new Map(given.columns.map((found) => [found.name, found.type])),
      },
    },
    answered: there && !unfit,
    ...(there && unfit
      ? {
          unread: warning(
            "answer_unread",
            `"${unfit.name}" of ${name} is ${columns.get(unfit.name)!.declared}, and was ${unfit.declared} in training: predictions are not compared with it.`,
            "Create the table with the types used in training.",
          ),
        }
      : {}),
  });
}
