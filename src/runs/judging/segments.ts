import { figureIntervals, type Intervals } from "@/core/evaluate/bootstrap";
import { figureMaker } from "@/core/evaluate/figures";
import type { Figures } from "@/core/evaluate/metrics";
import { residualsSql, segmentsSql } from "@/core/evaluate/segments-sql";
import { quoteIdentifier } from "@/core/sql/quote";
import type { Warehouse } from "@/warehouse/warehouse";
import { columnOf, type JudgedVersion } from "./judged-table";

export interface Segment {
  readonly label: string;
  readonly rows: number;
  readonly figures: Figures;
  readonly intervals: Intervals;
  /** Mean answer and mean prediction, for yes and no and for numbers. */
  readonly actual: number | null;
  readonly predicted: number | null;
}

/** Below this a segment's intervals say nothing. */
const LEAST_ROWS = 20;

const mean = (values: Float64Array): number => values.reduce((sum, each) => sum + each, 0) / values.length;

/** Figures of a version by the values of one column, so that a model that fails somewhere is seen. */
export async function segmentsOf(
  warehouse: Warehouse,
  judged: JudgedVersion,
  column: string,
): Promise<readonly Segment[]> {
  const { type } = columnOf(judged, column);
  const [counted] = await warehouse.read(
    `SELECT count(DISTINCT ${quoteIdentifier(column)})::integer AS n FROM ${judged.table}`,
  );
  const rows = await warehouse.read(
    segmentsSql(judged.table, column, type, Number(counted?.["n"] ?? 0), judged.outputs),
  );
  return rows.map((row): Segment => {
    const doubles = (name: string): Float64Array => Float64Array.from(row[name] as number[]);
    const scored = {
      answers: doubles("answers"),
      outputs: judged.outputs.map((_, index) => doubles(`o${index}`)),
    };
    const single = judged.task.kind !== "classes";
    return {
      label: String(row["label"]),
      rows: Number(row["rows"]),
      figures: figureMaker(judged.task.kind, scored)(undefined),
      intervals: scored.answers.length >= LEAST_ROWS ? figureIntervals(judged.task.kind, scored, 3) : {},
      actual: single ? mean(scored.answers) : null,
      predicted: single ? mean(scored.outputs[0]!) : null,
    };
  });
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
  const own = column === "prediction";
  const { type } = own ? { type: "double precision" as const } : columnOf(judged, column);
  const rows = await warehouse.read(
    residualsSql(judged.table, own ? judged.outputs[0]! : column, type, judged.outputs[0]!),
  );
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
