import { hidden } from "@/core/names/hidden";
import { quoteDouble, quoteText } from "./quote";
import type { Expression, NearestSearch, TermWeights, WindowFrame } from "@/core/expression/ast";

/** A lookup of more entries than this is printed as a JSON constant instead of a CASE. */
const LONGEST_CASE = 24;

type Lookup = Extract<Expression, { kind: "lookup" }>;
type Print = (node: Expression) => string;

/** A lookup as CASE; as a search in a JSON constant when long, whose keys PostgreSQL bisects. */
export function printLookup(node: Lookup, print: Print): string {
  const value = print(node.operand);
  const missing = print(node.missing);
  const constant = (result: number | string): string =>
    typeof result === "number" ? quoteDouble(result) : quoteText(result);
  if (node.entries.length <= LONGEST_CASE) {
    const branches = node.entries
      .map(([key, result]) => ` WHEN ${value} = ${quoteText(key)} THEN ${constant(result)}`)
      .join("");
    return `CASE WHEN ${value} IS NULL THEN ${missing}${branches} ELSE ${print(node.otherwise)} END`;
  }
  const json = `${quoteText(JSON.stringify(Object.fromEntries(node.entries)))}::jsonb`;
  const found =
    node.type === "text" ? `${json} ->> ${value}` : `CAST(${json} ->> ${value} AS double precision)`;
  return `CASE WHEN ${value} IS NULL THEN ${missing} ELSE coalesce(${found}, ${print(node.otherwise)}) END`;
}

/** The frame clause of a window. EXCLUDE GROUP leaves out the row and all rows at its own moment. */
export function printFrame(frame: WindowFrame): string {
  switch (frame.kind) {
    case "earlier times":
      return `GROUPS BETWEEN ${Math.trunc(frame.moments)} PRECEDING AND 1 PRECEDING`;
    case "previous time":
      return `GROUPS BETWEEN ${Math.trunc(frame.moments)} PRECEDING AND ${Math.trunc(frame.moments)} PRECEDING`;
    case "span before":
      return `RANGE BETWEEN ${quoteText(frame.interval)}::interval PRECEDING AND CURRENT ROW EXCLUDE GROUP`;
    case "all before":
      return "RANGE BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW EXCLUDE GROUP";
  }
}

/** Words of a text, as PostgreSQL's regular expressions see them. */
export const WORD_PATTERN = "[[:alnum:]]+";

/** The runs of one to `longest` words of a text, in order: a table of one column, "term". */
export function printWordRuns(value: string, longest: number): string {
  const words = `SELECT m[1] AS word, n FROM regexp_matches(lower(${value}), ${quoteText(WORD_PATTERN)}, 'g') WITH ORDINALITY AS t(m, n)`;
  if (longest === 1) return `SELECT word AS term FROM (${words}) AS w`;
  const runs = Array.from({ length: longest - 1 }, (_, index) => {
    const parts = [
      "word",
      ...Array.from({ length: index + 1 }, (_word, step) => `lead(word, ${step + 1}) OVER (ORDER BY n)`),
    ];
    return `SELECT ${parts.join(" || ' ' || ")} AS term FROM w`;
  });
  return `WITH w AS (${words}) SELECT word AS term FROM w${runs.map((run) => ` UNION ALL ${run}`).join("")}`;
}

/**
 * A sparse vector of a text: {-1, 2.5, -7, 1} is 2.5 of the first term and 1 of the seventh. NULL for a missing
 * text.
 */
export function printTerms(value: string, { vocabulary, longest, measure }: TermWeights): string {
  const numbers = `${quoteText(JSON.stringify(Object.fromEntries(vocabulary.map(({ term }, index) => [term, index + 1]))))}::jsonb`;
  const weights = printNumbers(vocabulary.map((term) => term.weight));
  const counted = `SELECT CAST(${numbers} ->> term AS integer) AS number, ${measure === "count" ? "count(*)" : "1"} AS measure FROM (${printWordRuns(value, longest)}) AS runs WHERE ${numbers} ? term GROUP BY 1`;
  const pairs = `SELECT number, unnest(ARRAY[-number, measure * (${weights})[number]]) AS part, unnest(ARRAY[1, 2]) AS side FROM (${counted}) AS counted`;
  return `CASE WHEN ${value} IS NOT NULL THEN coalesce((SELECT array_agg(part ORDER BY number, side) FROM (${pairs}) AS pairs), '{}'::double precision[]) END`;
}

/** A list of numbers as a constant. */
export const printNumbers = (values: readonly number[]): string =>
  `${quoteText(`{${values.join(",")}}`)}::double precision[]`;

/** A search among constant rows, as one scalar sub-select. */
export function printNearest(node: NearestSearch, print: Print): string {
  const texts = (values: readonly (string | null)[]): string =>
    `ARRAY[${values.map((value) => (value === null ? "NULL" : quoteText(value))).join(",")}]::text[]`;
  const arrays = [
    printNumbers(node.answers),
    ...node.numbers.map((number) => printNumbers(number.among)),
    ...node.categories.map((category) => texts(category.among)),
  ];
  // The values of the row are read in the same place, by the user's own names.
  const [answer, place] = [hidden("answer"), hidden("place")];
  const numberColumn = (index: number): string => hidden(`number_${index}`);
  const categoryColumn = (index: number): string => hidden(`category_${index}`);
  const names = [
    answer,
    ...node.numbers.map((_, index) => numberColumn(index)),
    ...node.categories.map((_, index) => categoryColumn(index)),
    place,
  ];
  const parts = [
    "0::double precision",
    ...node.numbers.map(
      (number, index) =>
        `(${print(number.value)} - ${numberColumn(index)}) * (${print(number.value)} - ${numberColumn(index)})`,
    ),
    ...node.categories.map(
      (category, index) =>
        `CASE WHEN ${print(category.value)} IS NOT DISTINCT FROM ${categoryColumn(index)} THEN 0 ELSE 1 END`,
    ),
  ];
  const distances = `SELECT ${answer} AS answer, ${place} AS place, ${parts.join(" + ")} AS square FROM unnest(${arrays.join(", ")}) WITH ORDINALITY AS kept(${names.join(", ")})`;
  const weight =
    node.near === undefined ? "1::double precision" : `1 / (sqrt(square) + ${quoteDouble(node.near)})`;
  const nearest = `SELECT answer, ${weight} AS weight FROM (${distances}) AS distances ORDER BY square, place LIMIT ${Math.trunc(node.k)}`;
  const votes =
    node.classes === 0
      ? ["sum(weight * answer) / sum(weight)"]
      : Array.from(
          { length: node.classes },
          (_, code) => `coalesce(sum(weight) FILTER (WHERE answer = ${code}), 0) / sum(weight)`,
        );
  return `(SELECT ARRAY[${votes.join(", ")}] FROM (${nearest}) AS nearest)`;
}
