import { findTable } from "@/core/plan/catalog";
import type { CheckedPlan } from "@/core/plan/plan";
import { partedRows } from "@/core/plan/parted-rows";
import { parseTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError } from "@/core/problem";
import { outputColumns, table as rowsOf } from "@/core/relation/relation";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { learnedUpTo, relationAt } from "../draft/preview";
import type { ExportSource } from "./export-rows";

/** All rows of a table, by its name as schema.table. */
export async function tableSource(warehouse: Warehouse, name: string): Promise<ExportSource> {
  const reference = parseTableName(name);
  const table = reference && findTable(await warehouse.catalog.read(), reference);
  if (!table)
    throw new ProblemError(
      problem("unknown_table", `There is no table ${name} in the warehouse.`, "Write schema.table."),
    );
  return {
    relation: rowsOf(
      table,
      table.columns.map(({ name }) => name),
    ),
    columns: table.columns,
  };
}

/**
 * The rows after some steps of a strand. Columns whose names are learned are numbers. After a step that learns, a last column says
 * in which part each row is, and every row has the values that training or scoring would give it.
 */
export async function stepSource(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<ExportSource> {
  const split = strand === plan.main.name && after > plan.learnsFrom;
  const relation = split
    ? partedRows(plan, await learnedUpTo(plan, warehouse, after, runTime), after)
    : await relationAt(plan, warehouse, strand, after, runTime);
  const found = plan.strands.find((oneStrand) => oneStrand.name === strand);
  const known = after === 0 ? found?.start : found?.steps[after - 1]?.shape.output;
  const names = outputColumns(relation);
  return {
    relation,
    runTime,
    columns: names.map((name, at) => ({
      name,
      type: split && at === names.length - 1 ? "text" : (known?.get(name)?.type ?? "double precision"),
    })),
  };
}
