import { allOf, asDouble, call, column, countRows, isNotNull, type Expression } from "../expression/ast";
import {
  aggregateRows,
  common,
  filter,
  project,
  table,
  type Relation,
  type TableReference,
} from "../relation/relation";
import { numbersOf } from "./groups";
import type { Question } from "./question";

/** How the values of two tables meet. */
export interface Overlap {
  /** Share of rows here (with a value) that find one there, and the other way round. */
  readonly matchedHere: number;
  readonly matchedThere: number;
  /** Most rows there for one value, and most rows here for one. */
  readonly mostThere: number;
  readonly mostHere: number;
}

const keyName = (place: number): string => `key_${place}`;
const [HERE, THERE] = ["rows_here", "rows_there"] as const;

/** Rows by key, of those that have one. */
function countedKeys(source: TableReference, names: readonly string[], rows: string): Relation {
  const keys = project(
    filter(table(source, names), allOf(names.map((name) => isNotNull(column(name))))),
    names.map((name, place) => ({ name: keyName(place), expression: column(name) })),
  );
  const by = names.map((_, place) => keyName(place));
  return common(aggregateRows(keys, by, [{ name: rows, expression: asDouble(countRows) }]), rows);
}

/** One row: all rows of one side, and most rows of a key. */
const totals = (counted: Relation, rows: string): Relation =>
  aggregateRows(
    counted,
    [],
    [
      { name: `${rows}_all`, expression: call("sum", column(rows)) },
      { name: `${rows}_most`, expression: call("max", column(rows)) },
    ],
  );

const beside = (left: Relation, right: Relation, names: readonly string[]): Relation => ({
  kind: "join",
  how: "inner",
  left,
  right,
  on: [],
  take: names.map((name) => ({ from: name, name })),
});

/** How many rows of two tables meet in some columns. */
export function overlapQuestion(
  here: { readonly source: TableReference; readonly columns: readonly string[] },
  there: { readonly source: TableReference; readonly columns: readonly string[] },
): Question<Overlap> {
  const left = countedKeys(here.source, here.columns, HERE);
  const right = countedKeys(there.source, there.columns, THERE);
  const matched: Relation = {
    kind: "join",
    how: "inner",
    left,
    right,
    on: here.columns.map((_, place) => ({ left: keyName(place), right: keyName(place) })),
    take: [{ from: THERE, name: THERE }],
  };
  const sums = aggregateRows(
    matched,
    [],
    [HERE, THERE].map((name) => ({ name: `${name}_matched`, expression: call("sum", column(name)) })),
  );
  const both = beside(
    beside(sums, totals(left, HERE), [`${HERE}_all`, `${HERE}_most`]),
    totals(right, THERE),
    [`${THERE}_all`, `${THERE}_most`],
  );
  const only = (name: string): Expression => call("max", column(name));
  const { relation, read } = numbersOf(
    both,
    [HERE, THERE].flatMap((side) => ["matched", "all", "most"].map((measure) => only(`${side}_${measure}`))),
  );
  return {
    relation,
    purpose: "how many rows of two tables meet",
    read: (rows) => {
      const [matchedHere, allHere, mostHere, matchedThere, allThere, mostThere] = read(rows);
      return {
        matchedHere: shareOf(matchedHere, allHere),
        matchedThere: shareOf(matchedThere, allThere),
        mostHere: mostHere ?? 0,
        mostThere: mostThere ?? 0,
      };
    },
  };
}

const shareOf = (part: number | null | undefined, whole: number | null | undefined): number =>
  whole !== null && whole !== undefined && whole > 0 ? (part ?? 0) / whole : 0;
