import type { Intervals } from "@/core/evaluate/bootstrap";
import type { ScoredRows } from "@/core/evaluate/figures";
import type { Figures, MetricName } from "@/core/evaluate/metrics";
import { isWorse, ownBase, relativeFigures } from "@/core/evaluate/relative";
import { residualsQuestion, type ResidualBin } from "@/core/questions/judged/residuals";
import {
  distinctCountQuestion,
  FEW_SEGMENTS,
  isCut,
  segmentEdgesQuestion,
  segmentsQuestion,
  type SegmentRows,
} from "@/core/questions/judged/segments";
import type { Warehouse } from "@/warehouse/port/warehouse";
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
  const edges = isCut(type, await warehouse.ask(distinctCountQuestion(judged, name)))
    ? await warehouse.ask(segmentEdgesQuestion(judged, name))
    : undefined;
  const rows = await warehouse.ask(segmentsQuestion(judged, { name, type, edges }, judged, most));
  const parts = rows.map((row) => ({ label: row.label, scored: scoredIn(row), groups: row.groups }));
  const all = rows[0]?.segments ?? 0;
  const whole = relativeFigures(judged.task.kind, concatenated(parts.map((part) => part.scored)));
  const segments = await Promise.all(parts.map((part) => segmentOf(judged, part, whole, all)));
  return { segments, all };
}

const scoredIn = ({ targets, outputs, weights }: SegmentRows): ScoredRows => ({
  answers: Float64Array.from(targets),
  outputs: outputs.map((output) => Float64Array.from(output)),
  ...(weights === undefined ? {} : { weights: Float64Array.from(weights) }),
});

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

/** Residuals of a number target along a column, or along the prediction itself. */
export function residualsOf(
  warehouse: Warehouse,
  judged: JudgedVersion,
  column: string,
): Promise<readonly ResidualBin[]> {
  const prediction = { name: judged.outputs[0]!, type: "double precision" as const };
  const along = column === "prediction" ? prediction : columnOf(judged, column);
  return warehouse.ask(residualsQuestion(judged, along));
}
