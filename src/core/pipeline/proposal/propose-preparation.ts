import { isNumber, type ValueType } from "../../value-type";
import type { ColumnOutline, TableOutline } from "./outline";

/** Texts with more different values than this get their rare ones grouped before they are encoded. */
const MOST_LEVELS = 30;
/** Texts of which at least so large a share are all different are names or remarks, not categories. */
const LEAST_REPEATED = 0.5;
const FEATURES: ReadonlySet<ValueType> = new Set(["boolean", "text"]);

/** A part of what is done to columns before a learner sees them; as a step, or left out of the features. */
export interface Preparation {
  readonly id: string;
  /** What it does, in a few words. */
  readonly says: string;
  readonly columns: readonly string[];
  readonly step?: Readonly<Record<string, unknown>>;
  /** Why the columns are no features, where they are left out. */
  readonly because?: string;
}

const names = (columns: readonly ColumnOutline[]): readonly string[] => columns.map(({ name }) => name);

/**
 * What a table's columns need before any learner can use them: gaps filled, texts encoded, and columns left out that say nothing.
 * @param taken columns that are key or answer
 */
export function proposePreparation(outline: TableOutline, taken: readonly string[]): readonly Preparation[] {
  const free = outline.columns.filter(({ name }) => !taken.includes(name));
  const { close } = outline;
  // Rows that were not looked at may hold other values.
  const all = outline.whole && close === outline.rows;
  const constant = (column: ColumnOutline): boolean =>
    all && close > 1 && column.distinct <= 1 && column.missing === 0;
  const empty = (column: ColumnOutline): boolean => outline.rows > 0 && column.missing === outline.rows;
  const usable = (column: ColumnOutline): boolean =>
    (isNumber(column.type) || FEATURES.has(column.type)) && !constant(column) && !empty(column);
  const texts = free.filter((column) => usable(column) && column.type === "text");
  const wordy = texts.filter(
    ({ distinct, missing }) => distinct > MOST_LEVELS && distinct > LEAST_REPEATED * (close - missing),
  );
  const categories = texts.filter((column) => !wordy.includes(column));
  const gaps = free.filter((column) => usable(column) && column.missing > 0);
  const left = free.filter((column) => !usable(column));
  return [
    ...parts(
      "fill",
      gaps.filter(({ type }) => isNumber(type)),
      (columns) => ({
        says: "fill missing values with the median",
        step: { do: "fill", name: "fill missing values", columns, with: "median" },
      }),
    ),
    ...parts(
      "fill_yes_no",
      gaps.filter(({ type }) => type === "boolean"),
      (columns) => ({
        says: "fill missing values with the more frequent of yes and no",
        step: { do: "fill", name: "fill yes and no", columns, with: "most_frequent" },
      }),
    ),
    ...parts(
      "group",
      categories.filter(({ distinct }) => distinct > MOST_LEVELS),
      (columns) => ({
        says: `keep the ${MOST_LEVELS} most frequent values, group the rest`,
        step: { do: "group_rare", name: "group rare values", columns, most: MOST_LEVELS },
      }),
    ),
    ...parts("encode", categories, (columns) => ({
      says: "one-hot encode",
      step: { do: "encode", name: "encode texts", columns },
    })),
    ...leftOut([
      ...wordy.map((column) => [column, "nearly all values are different"] as const),
      ...left.map((column) => [column, whyUnusable(column, empty(column))] as const),
    ]),
  ];
}

/** Columns that are no features, those with the same reason together. */
function leftOut(columns: readonly (readonly [ColumnOutline, because: string])[]): readonly Preparation[] {
  const reasons = [...new Set(columns.map(([, because]) => because))];
  return reasons.map((because) => ({
    id: `exclude: ${because}`,
    says: `exclude: ${because}`,
    columns: names(columns.filter(([, own]) => own === because).map(([column]) => column)),
    because,
  }));
}

function whyUnusable({ type, declared }: ColumnOutline, empty: boolean): string {
  if (empty) return "no values";
  if (isNumber(type) || FEATURES.has(type)) return "the same value in all rows";
  return `${declared}, not a number or text`;
}

function parts(
  id: string,
  columns: readonly ColumnOutline[],
  make: (names: readonly string[]) => Pick<Preparation, "says" | "step">,
): readonly Preparation[] {
  return columns.length === 0 ? [] : [{ id, columns: names(columns), ...make(names(columns)) }];
}
