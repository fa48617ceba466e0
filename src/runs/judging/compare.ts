import type { Intervals } from "@/core/evaluate/bootstrap";
import type { ScoredRows } from "@/core/evaluate/figures";
import type { Figures } from "@/core/evaluate/metrics";
import { problem, ProblemError, type Problem } from "@/core/problem";
import {
  comparedNames,
  comparedRows,
  disagreementsQuestion,
  type ComparedTables,
  type Disagreement,
} from "@/core/questions/judged/compared";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { readNumbers } from "../read-numbers";
import { figuresOf } from "../threads/figures";
import { figureIntervals } from "../threads/intervals";
import type { JudgedVersion } from "./judged-table";

/** Where the judged rows of a version are, and what they hold. */
export type JudgedRows = Pick<
  JudgedVersion,
  "task" | "key" | "group" | "weight" | "place" | "origin" | "outputs"
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
  readonly disagreements: readonly Disagreement[];
}

const DISAGREEMENTS = 15;

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

interface ComparedScores {
  readonly rows: number;
  readonly scored: readonly [ScoredRows, ScoredRows];
  readonly groups: Float64Array | undefined;
}

/** Reads predictions of two versions, with the targets of the rows that both were judged on. */
async function readCompared(warehouse: Warehouse, tables: ComparedTables): Promise<ComparedScores> {
  const names = comparedNames(tables);
  const further = [names.group, names.weight].filter((name) => name !== undefined);
  const wanted = [...names.first, ...names.second, names.target, ...further];
  const session = await warehouse.session();
  try {
    const read = await readNumbers(session, comparedRows(tables), wanted, {
      count: "rows in common",
      read: "predictions of both versions",
    });
    const valuesOf = (name: string): Float64Array => read.columns[wanted.indexOf(name)]!;
    const scored = (outputs: readonly string[]): ScoredRows => ({
      answers: valuesOf(names.target),
      outputs: outputs.map(valuesOf),
      ...(names.weight === undefined ? {} : { weights: valuesOf(names.weight) }),
    });
    return {
      rows: read.rows,
      scored: [scored(names.first), scored(names.second)],
      groups: names.group === undefined ? undefined : valuesOf(names.group),
    };
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
  other: Pick<JudgedRows, "task" | "place" | "origin" | "outputs">,
): Promise<Comparison> {
  if (one.task.kind !== other.task.kind || JSON.stringify(one.task) !== JSON.stringify(other.task))
    throw new ProblemError(
      problem("other_target", "The two versions predict different targets, so rows cannot be compared."),
    );
  // Keys of different tables are keys of different rows, even where they are equal.
  if (one.origin !== other.origin) throw new ProblemError(noCommonRows());
  const tables: ComparedTables = { first: one, second: other, key: one.key, columns: one };
  const { rows, scored, groups } = await readCompared(warehouse, tables);
  if (rows === 0) throw new ProblemError(noCommonRows());
  const [first, second] = scored;
  const differences = await figureIntervals({
    kind: one.task.kind,
    scored: [first, second],
    seed: 1,
    groups,
  });
  return {
    rows,
    first: await figuresOf(one.task.kind, first),
    second: await figuresOf(one.task.kind, second),
    ...(one.task.kind === "number"
      ? { errors: { first: errorCurve(first), second: errorCurve(second) } }
      : {}),
    differences: differences.intervals,
    ...(differences.because === undefined ? {} : { noIntervals: differences.because }),
    disagreements: await warehouse.ask(disagreementsQuestion(tables, DISAGREEMENTS)),
  };
}
