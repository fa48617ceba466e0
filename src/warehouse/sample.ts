import { cast, column, type Expression } from "@/core/expression/ast";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { pageQuestion, type Page } from "@/core/questions/page";
import { table as rowsOf } from "@/core/relation/relation";
import type { Warehouse } from "./port/warehouse";

const MILLISECONDS = 20_000;

/** Rows of a table from a position on, in the order of a column or as stored. */
export function pageOfTable(
  warehouse: Warehouse,
  table: CatalogTable,
  options: {
    readonly offset: number;
    readonly limit: number;
    readonly orderBy?: { readonly column: string; readonly descending: boolean } | undefined;
  },
): Promise<Page> {
  const { offset, limit, orderBy } = options;
  const sorted = table.columns.find(({ name }) => name === orderBy?.column);
  const order = sorted ? [{ expression: comparable(sorted), descending: orderBy?.descending === true }] : [];
  const rows = rowsOf(
    table,
    table.columns.map(({ name }) => name),
  );
  const question = pageQuestion(rows, `rows of ${table.table}`, { rows: limit, offset, order });
  return warehouse.ask(question, { milliseconds: MILLISECONDS });
}

/** Values of types that a warehouse may not put in order go by their text. */
const comparable = ({ name, type }: CatalogColumn): Expression =>
  type === "json" || type === "other" ? cast(column(name), "text") : column(name);
