import { column } from "../expression/ast";
import { withColumns, type Relation } from "../relation/relation";
import { hidden } from "../names/hidden";
import type { CheckedPlan } from "./plan";

/** A column whose values a step changes, and the copy that keeps what they were. */
export interface Original {
  readonly column: string;
  /** Name of the copy. */
  readonly copy: string;
  /** Position of the first step that changes the values. */
  readonly changedBy: number;
}

/** With very many columns a row of the judged rows would not fit into a page of the warehouse. */
const MOST_COLUMNS = 700;
const MOST_COPIES = 200;
const NOT_SHOWN: readonly string[] = ["sparse", "json", "other"];

/**
 * Columns of the final rows that steps have changed (scaled, filled, mapped, encoded), as they were before. Only what happens after the
 * last step that makes other rows of the rows counts: before it there is no row that a value could be the original of.
 */
export function originalsOf({ main, file }: Pick<CheckedPlan, "main" | "file">): readonly Original[] {
  const { key, target } = file.roles;
  const first = main.steps.findLastIndex(({ step }) => step.regroups) + 1;
  const found = new Map<string, number>();
  main.steps.slice(first).forEach(({ input, shape }, place) => {
    for (const [name, before] of input) {
      const after = shape.output.get(name);
      const isChanged = after !== undefined && after.identity !== before.identity;
      if (!isChanged || found.has(name) || before.bundle || NOT_SHOWN.includes(before.type)) continue;
      found.set(name, first + place);
    }
  });
  const room = Math.max(0, Math.min(MOST_COPIES, MOST_COLUMNS - main.output.size));
  return [...found]
    .filter(([name]) => main.output.has(name) && !key.includes(name) && name !== target.column)
    .slice(0, room)
    .map(([name, changedBy], place) => ({ column: name, copy: hidden(`original_${place}`), changedBy }));
}

/** Rows before a step, with copies of the columns that it is the first to change. */
export function withCopies(rows: Relation, originals: readonly Original[], position: number): Relation {
  const copied = originals.filter(({ changedBy }) => changedBy === position);
  return copied.length === 0
    ? rows
    : withColumns(
        rows,
        copied.map((original) => ({ name: original.copy, expression: column(original.column) })),
      );
}
