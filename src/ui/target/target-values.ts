import { valuesOf, type Scalar } from "@/core/expression/has-value";
import { formatCount, formatNumber } from "@/core/format/numbers";
import { isNumber, type ValueType } from "@/core/value-type";

/** Values on both sides of yes and no, as texts; no negative ones: every other value. */
export interface Sides {
  readonly positive: readonly string[];
  readonly negative: readonly string[];
}

/** How often a target has a value. */
export interface ValueRows {
  readonly value: string;
  readonly rows: number;
}

export const textsOf = (setting: Scalar | readonly Scalar[] | undefined): readonly string[] =>
  valuesOf(setting).map(String);

const asNumber = (text: string): number => Number(text.trim().replace(",", "."));

/** A side as the file has it: one value by itself, several as a list; undefined where there is none. */
function sideInFile(texts: readonly string[], type: ValueType): Scalar | Scalar[] | undefined {
  const values = texts.map((text) => (isNumber(type) ? asNumber(text) : text));
  return values.length > 1 ? values : values[0];
}

/** Both sides as the file has them, for a target of a type. */
export function sidesInFile({ positive, negative }: Sides, type: ValueType) {
  const yes = sideInFile(positive, type);
  const no = sideInFile(negative, type);
  return { ...(yes === undefined ? {} : { positive: yes }), ...(no === undefined ? {} : { negative: no }) };
}

/** What is wrong with one side, in words of the form. */
export function sideMistake(side: keyof Sides, sides: Sides, type: ValueType): string | undefined {
  if (side === "positive" && sides.positive.length === 0) return "Enter a positive value.";
  const odd = isNumber(type) ? sides[side].find((text) => Number.isNaN(asNumber(text))) : undefined;
  if (odd !== undefined) return `“${odd}” is not a number, but the target is numeric.`;
  const both = side === "negative" ? sides.negative.find((text) => sides.positive.includes(text)) : undefined;
  return both === undefined
    ? undefined
    : `“${both}” is both positive and negative. Remove it from one of the two.`;
}

/** Values that are listed among those of the rest. */
const FEW = 4;

/**
 * How many rows have a target on neither side, and which these are.
 * @param values the most frequent ones
 * @param known rows that have a target; undefined where they were not all counted
 */
export function describeRest(
  { positive, negative }: Sides,
  values: readonly ValueRows[],
  known: number | undefined,
): string {
  if (negative.length === 0) return "All other values are negative.";
  const named = [...positive, ...negative];
  const counted = values.filter(({ value }) => named.includes(value));
  const rest = values.filter(({ value }) => !named.includes(value));
  const listed = values.reduce((sum, { rows }) => sum + rows, 0);
  // A named value that is not among those counted may have any number of rows.
  const certain = known !== undefined && (counted.length === named.length || listed === known);
  if (!certain) return "Rows with other values are excluded.";
  const left = known - counted.reduce((sum, { rows }) => sum + rows, 0);
  if (left === 0) return "No rows are excluded.";
  const examples = rest.slice(0, FEW).map(({ value, rows }) => `${value} ${formatNumber(rows)}`);
  const more = rest.length > FEW || listed < known ? ", …" : "";
  return `Left out: ${formatCount(left, "row")} (${examples.join(", ")}${more}).`;
}
