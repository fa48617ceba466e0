import type { ColumnHere } from "./places";

/** What is picked by: parts of names, any of which will do, and a family of types. */
export interface PickRule {
  readonly typed: string;
  readonly family: ColumnHere["family"] | "any";
}

const partsOf = (typed: string): readonly string[] =>
  typed
    .toLowerCase()
    .split(/[\s,]+/)
    .filter((part) => part !== "");

/** The columns that a rule means: all of a family when nothing is typed, none when nothing is said at all. */
export function matching(columns: readonly ColumnHere[], { typed, family }: PickRule): readonly ColumnHere[] {
  const parts = partsOf(typed);
  if (parts.length === 0 && family === "any") return [];
  return columns.filter(
    (column) =>
      (family === "any" || column.family === family) &&
      (parts.length === 0 || parts.some((part) => column.name.toLowerCase().includes(part))),
  );
}

/** The columns from one to another, both of them, in the order in which they stand; the other alone where the first is not there. */
export function between(order: readonly string[], from: string | null, to: string): readonly string[] {
  const [first, last] = [from === null ? -1 : order.indexOf(from), order.indexOf(to)];
  if (first < 0 || last < 0) return [to];
  return order.slice(Math.min(first, last), Math.max(first, last) + 1);
}

/** How a press picks: this column alone, this one too, or all up to it. */
export type PickKind = "only" | "more" | "range";

/** What a press picks: this column alone, this one too, or all up to it. */
export function pickOf(event: Pick<MouseEvent, "shiftKey" | "ctrlKey" | "metaKey">): PickKind {
  if (event.shiftKey) return "range";
  return event.ctrlKey || event.metaKey ? "more" : "only";
}
