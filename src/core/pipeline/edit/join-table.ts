import { writeColumnName } from "../../expression/column-name";
import { success, type Result } from "../../problem";
import type { JoinedColumns } from "../proposal/propose-join";
import { addStrand } from "./parts";
import { insertStep, type StepPlace } from "./steps";

/** Figures over rows, as SQL aggregates. */
export const JOIN_AGGREGATES = ["avg", "sum", "min", "max", "count"] as const;
export type JoinAggregate = (typeof JOIN_AGGREGATES)[number];

/** What is taken over of a table's rows. */
export type TakenRows =
  | { readonly shape: "row"; readonly columns: readonly string[] }
  | {
      readonly shape: "spread";
      /** The column whose values become columns, and these values. */
      readonly by: string;
      readonly values: readonly string[];
      readonly aggregate: JoinAggregate;
      readonly column: string;
    }
  | { readonly shape: "summary"; readonly aggregate: JoinAggregate; readonly columns: readonly string[] };

/** A table that is joined to the rows at a place of a pipeline. */
export interface JoinedTable {
  /** As the file names it, and what its strand is called. */
  readonly table: string;
  readonly strand: string;
  readonly pairs: readonly JoinedColumns[];
  readonly taken: TakenRows;
}

const ROWS = "rows";

/** The name of a figure, and its expression. */
function measureOf(aggregate: JoinAggregate, column: string): readonly [name: string, expression: string] {
  if (aggregate === "count") return [ROWS, "count(*)"];
  return [`${aggregate}_${column}`, `${aggregate}(${writeColumnName(column)})`];
}

/** Names of the columns that come in, before a prefix. */
export function columnsTaken({ taken }: Pick<JoinedTable, "taken">): readonly string[] {
  switch (taken.shape) {
    case "row":
      return taken.columns;
    case "spread": {
      const name = taken.aggregate === "count" ? ROWS : taken.column;
      return taken.values.map((value) => `${name}_${value}`);
    }
    case "summary":
      return taken.aggregate === "count"
        ? [ROWS]
        : taken.columns.map((column) => measureOf(taken.aggregate, column)[0]);
  }
}

/** The step by which the table gets one row for each of its joined values; none where it has that already. */
function groupingStep({ pairs, taken }: JoinedTable): Readonly<Record<string, unknown>> | undefined {
  const by = [...new Set(pairs.map(({ there }) => there))];
  switch (taken.shape) {
    case "row":
      return undefined;
    case "spread": {
      const [, expression] = measureOf(taken.aggregate, taken.column);
      const name = taken.aggregate === "count" ? ROWS : taken.column;
      return { do: "pivot", by, column: taken.by, values: taken.values, measures: { [name]: expression } };
    }
    case "summary": {
      const columns = taken.aggregate === "count" ? [""] : taken.columns;
      const measures = columns.map((column) => measureOf(taken.aggregate, column));
      return { do: "aggregate", by, measures: Object.fromEntries(measures) };
    }
  }
}

/**
 * What stands before the names of columns that come in, so that none is there already; nothing where none
 * is.
 */
export function prefixFor(table: JoinedTable, here: readonly string[]): string | undefined {
  const names = columnsTaken(table);
  if (!names.some((name) => here.includes(name))) return undefined;
  const prefixes = [`${table.strand}_`, ...here.map((_, index) => `${table.strand}_${index + 2}_`)];
  return prefixes.find((prefix) => !names.some((name) => here.includes(`${prefix}${name}`)));
}

/**
 * Joins a table at a place of the pipeline: a strand of its own, which gets one row for each of the joined
 * values, and a join.
 * @param here names of the columns at that place
 */
export function joinTable(
  text: string,
  place: StepPlace,
  table: JoinedTable,
  here: readonly string[],
): Result<string> {
  const grouping = groupingStep(table);
  const strand = {
    name: table.strand,
    from: table.table,
    ...(grouping ? { steps: [grouping] } : {}),
  };
  const added = addStrand(text, strand);
  if (!added.ok) return added;
  const prefix = prefixFor(table, here);
  const same = table.pairs.every((pair) => pair.here === pair.there);
  const joined = insertStep(added.value, place, {
    do: "join",
    with: table.strand,
    on: same
      ? table.pairs.map((pair) => pair.here)
      : Object.fromEntries(table.pairs.map((pair) => [pair.here, pair.there])),
    ...(table.taken.shape === "row" ? { take: table.taken.columns } : {}),
    ...(prefix === undefined ? {} : { prefix }),
  });
  return joined.ok ? success(joined.value) : joined;
}
