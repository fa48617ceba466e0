import { asDouble, call, column, countRows } from "../expression/ast";
import type { Relation } from "../relation/relation";
import { numbersOf } from "./groups";
import type { Question } from "./question";

/** Exact rows, and how many values are present, by column. */
export interface StepCounts {
  readonly rows: number;
  readonly present: Readonly<Record<string, number>>;
}

/** Counts rows, and per column how many values are there. */
export function completenessQuestion(input: Relation, columns: readonly string[]): Question<StepCounts> {
  const { relation, read } = numbersOf(input, [
    asDouble(countRows),
    ...columns.map((name) => asDouble(call("count", column(name)))),
  ]);
  return {
    relation,
    purpose: "rows and values after a step",
    read: (found) => {
      const [rows, ...present] = read(found);
      return {
        rows: rows ?? 0,
        present: Object.fromEntries(columns.map((name, index) => [name, present[index] ?? 0])),
      };
    },
  };
}
