import type { TableReference } from "@/core/relation/relation";
import { quoteTable } from "@/core/sql/quote";
import type { Warehouse } from "./warehouse";

/** How many rows the planner expects of a table or view, which costs no look at them. */
export async function estimateRows(warehouse: Warehouse, table: TableReference): Promise<number> {
  const [row] = await warehouse.read(`EXPLAIN (FORMAT JSON) SELECT 1 FROM ${quoteTable(table)}`);
  const [explained] = (row?.["QUERY PLAN"] ?? []) as readonly {
    readonly Plan: { readonly "Plan Rows": number };
  }[];
  return explained?.Plan["Plan Rows"] ?? 0;
}
