import type { Dialect } from "@/core/dialect";
import { printRelation } from "./relation";

/**
 * PostgreSQL's dialect. A row must fit into a page of 8 kB, with its head and the columns that are not features; a
 * table has at most 1,600 columns.
 */
export const postgresDialect: Dialect = {
  name: "PostgreSQL",
  printRelation,
  limits: { tableColumns: 1570, rowBytes: 7700 },
};
