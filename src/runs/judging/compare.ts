import type { Intervals } from "@/core/evaluate/bootstrap";
import type { ScoredRows } from "@/core/evaluate/figures";
import type { Figures } from "@/core/evaluate/metrics";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { problem, ProblemError, type Problem } from "@/core/problem";
import { quoteIdentifier } from "@/core/sql/quote";
import { RowReader } from "@/warehouse/stream-frame";
import type { Warehouse } from "@/warehouse/warehouse";
import { figuresOf } from "../threads/figures";
import { figureIntervals } from "../threads/intervals";
import type { JudgedVersion } from "./judged-table";

/** Where the judged rows of a version are, and what they hold. */
export type JudgedRows = Pick<
  JudgedVersion,
  "task" | "key" | "group" | "weight" | "table" | "origin" | "outputs"
>;

export interface Comparison {
  /** Rows that both were judged on. */
  readonly rows: number;
  readonly first: Figures;
  readonly second: Figures;
  /** Of the difference, second minus first. */
  readonly differences: Intervals;
  /** Why there are no intervals, when there are none. */
  readonly noIntervals?: string;
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

/** Name of an output of either side in the joined rows. */
const sideColumn = (outputs: number, index: number): string =>
  index < outputs ? `a${index}` : `b${index - outputs}`;

/** Reads columns of numbers as arrays, all rows of them. */
async function readColumns(
  warehouse: Warehouse,
  source: string,
  names: readonly string[],
): Promise<{ readonly values: readonly Float64Array[]; readonly rows: number }> {
  const session = await warehouse.session();
  try {
    const [counted] = await session.run(`SELECT count(*)::integer AS rows FROM ${source}`, "rows in common");
    const rows = Number(counted?.["rows"] ?? 0);
    const values = names.map(() => new Float64Array(rows));
    const reader = new RowReader(values, [], rows);
    const list = names.map((name) => `coalesce(${quoteIdentifier(name)}, 0)::double precision`).join(", ");
    await session.copyOut(`COPY (SELECT ${list} FROM ${source}) TO STDOUT (FORMAT binary)`, reader.take);
    return { values, rows };
  } finally {
    session.release();
  }
}

const noCommonRows = (): Problem =>
  problem(
    "no_common_rows",
    "The two versions were evaluated on different rows: the holdouts have no rows in common.",
    "Compare versions with the same holdout.",
  );

/** Two versions of one pipeline on the rows that both were judged on: what they share cancels out of the difference. */
export async function compareVersions(
  warehouse: Warehouse,
  one: JudgedRows,
  other: Pick<JudgedRows, "task" | "table" | "origin" | "outputs">,
): Promise<Comparison> {
  if (one.task.kind !== other.task.kind || JSON.stringify(one.task) !== JSON.stringify(other.task))
    throw new ProblemError(
      problem("other_target", "The two versions predict different targets, so rows cannot be compared."),
    );
  // Keys of different tables are keys of different rows, even where they are equal.
  if (one.origin !== other.origin) throw new ProblemError(noCommonRows());
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
  const weight =
    one.weight === undefined
      ? "NULL::double precision"
      : `coalesce(a.${quoteIdentifier(one.weight)}::double precision, 0)`;
  const scoredBoth = `a.${quoteIdentifier(one.outputs[0]!)} IS NOT NULL AND b.${quoteIdentifier(other.outputs[0]!)} IS NOT NULL`;
  const inner = `SELECT ${key} AS key, a.${target} AS y, ${group}::integer AS grp, ${weight} AS weight, ${apart} AS apart, ${pairs.join(", ")} FROM ${join} WHERE a.${target} = b.${target} AND ${scoredBoth}`;
  const columns = ["y", "grp", "weight", ...pairs.map((_, index) => sideColumn(one.outputs.length, index))];
  const { values, rows } = await readColumns(warehouse, `(${inner}) AS joined`, columns);
  if (rows === 0) throw new ProblemError(noCommonRows());
  const [answers, groups, weights, ...outputs] = values;
  const scored = (side: number): ScoredRows => ({
    answers: answers!,
    outputs: outputs.slice(side * one.outputs.length, (side + 1) * one.outputs.length),
    ...(one.weight === undefined ? {} : { weights: weights! }),
  });
  const [first, second] = [scored(0), scored(1)];
  const differences = await figureIntervals({
    kind: one.task.kind,
    scored: [first, second],
    seed: 1,
    groups: one.group === undefined ? undefined : groups,
  });
  const worst = await warehouse.read(`SELECT * FROM (${inner}) AS joined ORDER BY apart DESC, key LIMIT 15`);
  return {
    rows,
    first: await figuresOf(one.task.kind, first),
    second: await figuresOf(one.task.kind, second),
    ...(one.task.kind === "number"
      ? { errors: { first: errorCurve(first), second: errorCurve(second) } }
      : {}),
    differences: differences.intervals,
    ...(differences.because === undefined ? {} : { noIntervals: differences.because }),
    disagreements: worst.map((item) => ({
      key: item["key"] as string[],
      answer: Number(item["y"]),
      first: one.outputs.map((_, index) => Number(item[`a${index}`])),
      second: one.outputs.map((_, index) => Number(item[`b${index}`])),
    })),
  };
}
