import { pairedIntervals, type Intervals } from "@/core/evaluate/bootstrap";
import { figureMaker, type ScoredRows } from "@/core/evaluate/figures";
import type { Figures } from "@/core/evaluate/metrics";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { problem, ProblemError } from "@/core/problem";
import { quoteIdentifier } from "@/core/sql/quote";
import type { Warehouse } from "@/warehouse/warehouse";
import type { JudgedVersion } from "./judged-table";

/** Where the judged rows of a version are, and what they hold. */
export type JudgedRows = Pick<JudgedVersion, "task" | "key" | "group" | "table" | "outputs">;

export interface Comparison {
  /** Rows that both were judged on. */
  readonly rows: number;
  readonly first: Figures;
  readonly second: Figures;
  /** Of the difference, second minus first. */
  readonly differences: Intervals;
  /** Of a number: sizes of errors and the share of rows that err by no more. */
  readonly errors?: {
    readonly first: readonly (readonly [number, number])[];
    readonly second: readonly (readonly [number, number])[];
  };
  /** Rows that they disagree on most. */
  readonly disagreements: readonly {
    readonly key: readonly string[];
    readonly answer: number;
    readonly first: readonly number[];
    readonly second: readonly number[];
  }[];
}

/** Points of a curve of errors. The largest hundredth is left out, or it would fill the picture. */
const ERROR_POINTS = 60;
const LARGEST_ERRORS = 0.99;

function errorCurve({ answers, outputs }: ScoredRows): [number, number][] {
  const sizes = answers.map((answer, row) => Math.abs(outputs[0]![row]! - answer)).sort();
  return Array.from({ length: ERROR_POINTS + 1 }, (_, point) => {
    const share = (LARGEST_ERRORS * point) / ERROR_POINTS;
    return [sizes[Math.min(sizes.length - 1, Math.floor(share * sizes.length))]!, share];
  });
}

/** Rows compared at the most. */
const MOST_ROWS = 60_000;

/** Two versions of one pipeline on the rows that both were judged on: what they share cancels out of the difference. */
export async function compareVersions(
  warehouse: Warehouse,
  one: JudgedRows,
  other: Pick<JudgedRows, "task" | "table" | "outputs">,
): Promise<Comparison> {
  if (one.task.kind !== other.task.kind || JSON.stringify(one.task) !== JSON.stringify(other.task))
    throw new ProblemError(
      problem(
        "other_target",
        "These two do not predict the same, so there is nothing to compare row by row.",
      ),
    );
  const join = `${one.table} AS a JOIN ${other.table} AS b ON ${one.key.map((name) => `a.${quoteIdentifier(name)} = b.${quoteIdentifier(name)}`).join(" AND ")}`;
  const target = quoteIdentifier(TARGET_COLUMN);
  const pairs = [
    ...one.outputs.map((name, index) => `a.${quoteIdentifier(name)} AS a${index}`),
    ...other.outputs.map((name, index) => `b.${quoteIdentifier(name)} AS b${index}`),
  ];
  const key = `ARRAY[${one.key.map((name) => `a.${quoteIdentifier(name)}::text`).join(", ")}]`;
  const group =
    one.group === undefined ? "NULL" : `dense_rank() OVER (ORDER BY a.${quoteIdentifier(one.group)})`;
  const apart = one.outputs
    .map((name, index) => `abs(a.${quoteIdentifier(name)} - b.${quoteIdentifier(other.outputs[index]!)})`)
    .join(" + ");
  const inner = `SELECT ${key} AS key, a.${target} AS y, ${group}::integer AS grp, ${apart} AS apart, ${pairs.join(", ")} FROM ${join} WHERE a.${target} = b.${target}`;
  const arrays = [
    ...one.outputs.map((_, index) => `array_agg(a${index}) AS a${index}`),
    ...other.outputs.map((_, index) => `array_agg(b${index}) AS b${index}`),
  ];
  const [row] = await warehouse.read(
    `SELECT count(*)::integer AS rows, array_agg(y) AS y, array_agg(grp) AS grp, ${arrays.join(", ")} FROM (SELECT * FROM (${inner}) AS joined ORDER BY md5(key::text) LIMIT ${MOST_ROWS}) AS chosen`,
  );
  const rows = Number(row?.["rows"] ?? 0);
  if (rows === 0)
    throw new ProblemError(
      problem(
        "no_common_rows",
        "These two were judged on different rows: no row is in both holdouts.",
        "Compare versions with the same holdout.",
      ),
    );
  const doubles = (name: string): Float64Array => Float64Array.from(row![name] as number[]);
  const scored = (side: "a" | "b"): ScoredRows => ({
    answers: doubles("y"),
    outputs: one.outputs.map((_, index) => doubles(`${side}${index}`)),
  });
  const [first, second] = [scored("a"), scored("b")];
  const worst = await warehouse.read(`SELECT * FROM (${inner}) AS joined ORDER BY apart DESC, key LIMIT 15`);
  return {
    rows,
    first: figureMaker(one.task.kind, first)(undefined),
    second: figureMaker(one.task.kind, second)(undefined),
    ...(one.task.kind === "number"
      ? { errors: { first: errorCurve(first), second: errorCurve(second) } }
      : {}),
    differences: pairedIntervals(
      one.task.kind,
      first,
      second,
      1,
      one.group === undefined ? undefined : (row!["grp"] as number[]),
    ),
    disagreements: worst.map((each) => ({
      key: each["key"] as string[],
      answer: Number(each["y"]),
      first: one.outputs.map((_, index) => Number(each[`a${index}`])),
      second: one.outputs.map((_, index) => Number(each[`b${index}`])),
    })),
  };
}
