import type { Intervals } from "@/core/evaluate/bootstrap";
import type { ScoredRows } from "@/core/evaluate/figures";
import type { Figures, MetricName } from "@/core/evaluate/metrics";
import { isWorse, ownBase, relativeFigures } from "@/core/evaluate/relative";
import {
  FEW_SEGMENTS,
  isCut,
  residualsSql,
  segmentEdgesSql,
  segmentsSql,
} from "@/core/evaluate/segments-sql";
import { quoteIdentifier } from "@/core/sql/quote";
import type { Warehouse } from "@/warehouse/warehouse";
import { figuresOf } from "../threads/figures";
import { figureIntervals } from "../threads/intervals";
import { columnOf, type JudgedVersion } from "./judged-table";

export interface Segment {
  readonly label: string;
  readonly rows: number;
  readonly figures: Figures;
  readonly intervals: Intervals;
  /** Why there are no intervals, when there are none. */
  readonly noIntervals?: string;
  /** Mean answer and mean prediction, for yes and no and for numbers. */
  readonly actual: number | null;
  readonly predicted: number | null;
  /** Figures that are worse than on all rows, beyond chance and beyond what the segment's own answers make hard. */
  readonly worse: readonly MetricName[];
}

export interface Segments {
  readonly segments: readonly Segment[];
  /** How many there are, shown or not. */
  readonly all: number;
}

/** Below this a segment's intervals say nothing. */
const LEAST_ROWS = 20;
/** How often chance alone may flag any segment of a column. */
const CHANCE = 0.05;

const mean = (values: Float64Array): number => values.reduce((sum, value) => sum + value, 0) / values.length;

/**
 * Figures of a version by the values of one column, so that a model that fails somewhere is seen.
 * @param most segments that are given, at the most
 */
export async function segmentsOf(
  warehouse: Warehouse,
  judged: JudgedVersion,
  column: string,
  most = FEW_SEGMENTS,
): Promise<Segments> {
  const { name, type } = columnOf(judged, column);
  const [counted] = await warehouse.read(
    `SELECT count(DISTINCT ${quoteIdentifier(name)})::integer AS n FROM ${judged.table}`,
  );
  const edges = isCut(type, Number(counted?.["n"] ?? 0))
    ? ((await warehouse.read(segmentEdgesSql(judged.table, name)))[0]?.["edges"] as number[])
    : undefined;
  const rows = await warehouse.read(segmentsSql(judged.table, { column: name, type, edges }, judged, most));
  const parts = rows.map((row) => ({
    label: String(row["label"]),
    scored: scoredIn(row, judged),
    groups: judged.group === undefined ? undefined : (row["groups"] as number[]),
  }));
  const all = Number(rows[0]?.["segments"] ?? 0);
  const whole = relativeFigures(judged.task.kind, concatenated(parts.map((part) => part.scored)));
  const segments = await Promise.all(parts.map((part) => segmentOf(judged, part, whole, all)));
  return { segments, all };
}

function scoredIn(row: Readonly<Record<string, unknown>>, judged: JudgedVersion): ScoredRows {
  const doubles = (name: string): Float64Array => Float64Array.from(row[name] as number[]);
  return {
    answers: doubles("answers"),
    outputs: judged.outputs.map((_, index) => doubles(`o${index}`)),
    ...(judged.weight === undefined ? {} : { weights: doubles("weights") }),
  };
}

function concatenated(parts: readonly ScoredRows[]): ScoredRows {
  const join = (pick: (rows: ScoredRows) => Float64Array): Float64Array =>
    Float64Array.from(parts.flatMap((part) => [...pick(part)]));
  return {
    answers: join((rows) => rows.answers),
    outputs: (parts[0]?.outputs ?? []).map((_, index) => join((rows) => rows.outputs[index]!)),
    ...(parts[0]?.weights ? { weights: join((rows) => rows.weights!) } : {}),
  };
}

async function segmentOf(
  { task: { kind } }: JudgedVersion,
  {
    label,
    scored,
    groups,
  }: { readonly label: string; readonly scored: ScoredRows; readonly groups: readonly number[] | undefined },
  whole: Figures,
  comparisons: number,
): Promise<Segment> {
  const figures = await figuresOf(kind, scored);
  const single = kind !== "classes";
  const segment = {
    label,
    rows: scored.answers.length,
    figures,
    actual: single ? mean(scored.answers) : null,
    predicted: single ? mean(scored.outputs[0]!) : null,
  };
  if (scored.answers.length < LEAST_ROWS)
    return { ...segment, intervals: {}, noIntervals: `fewer than ${LEAST_ROWS} rows`, worse: [] };
  const own = await figureIntervals({ kind, scored: [scored], seed: 3, groups });
  const against = await figureIntervals({
    kind,
    scored: [scored, ownBase(kind, scored)],
    against: "base",
    seed: 3,
    groups,
    level: 1 - CHANCE / Math.max(1, comparisons),
  });
  return {
    ...segment,
    intervals: own.intervals,
    ...(own.because === undefined ? {} : { noIntervals: own.because }),
    worse: (Object.keys(figures) as MetricName[]).filter((name) =>
      isWorse(name, against.intervals[name], whole[name]),
    ),
  };
}

export interface ResidualBin {
  readonly place: number | null;
  readonly label: string;
  readonly rows: number;
  readonly quartiles: readonly [number, number, number];
  readonly mean: number;
  readonly actual: number;
  readonly predicted: number;
}

/** Residuals of a number target along a column, or along the prediction itself. */
export async function residualsOf(
  warehouse: Warehouse,
  judged: JudgedVersion,
  column: string,
): Promise<readonly ResidualBin[]> {
  const [output] = judged.outputs;
  const { name, type } =
    column === "prediction" ? { name: output!, type: "double precision" as const } : columnOf(judged, column);
  const rows = await warehouse.read(residualsSql(judged.table, name, type, output!));
  return rows.map((row) => ({
    place: row["place"] === null ? null : Number(row["place"]),
    label: String(row["label"]),
    rows: Number(row["rows"]),
    quartiles: (row["quartiles"] as number[]).map(Number) as [number, number, number],
    mean: Number(row["mean"]),
    actual: Number(row["actual"]),
    predicted: Number(row["predicted"]),
  }));
}
