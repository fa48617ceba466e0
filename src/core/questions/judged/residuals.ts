import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  isNotNull,
  NULL,
  type Expression,
} from "../../expression/ast";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { aggregateRows, filter, project, table } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { isMoment, isNumber, type ValueType } from "../../value-type";
import { doubleValue, type Question } from "../question";
import type { JudgedTable } from "./judged-rows";

/** Bins along a column in which residuals are summed up. */
const BINS = 24;

/** Residuals of the rows of one bin: target minus prediction. */
export interface ResidualBin {
  /** Mean of the column; for times in seconds since 1970. Null where values have no order. */
  readonly place: number | null;
  readonly label: string;
  readonly rows: number;
  readonly quartiles: readonly [number, number, number];
  readonly mean: number;
  /** Means of target and prediction. */
  readonly actual: number;
  readonly predicted: number;
}

const [BIN, PREDICTION] = ["bin", "prediction"].map(hidden) as [string, string];

const binRow = z.looseObject({
  place: doubleValue.nullable(),
  label: z.string(),
  rows: doubleValue,
  low: doubleValue,
  middle: doubleValue,
  high: doubleValue,
  mean: doubleValue,
  actual: doubleValue,
  predicted: doubleValue,
});

/**
 * Residuals of a number target along a column, or along the prediction itself; of values without order the most
 * frequent.
 */
export function residualsQuestion(
  { place, outputs }: JudgedTable,
  { name, type }: { readonly name: string; readonly type: ValueType },
): Question<readonly ResidualBin[]> {
  const [value, target] = [column(name), column(TARGET_COLUMN)];
  const isOrdered = isNumber(type) || isMoment(type);
  const quantileBin: Expression = {
    kind: "window",
    call: call("ntile", integer(BINS)),
    by: [],
    order: [{ expression: value }],
  };
  const present = filter(
    table(place, [...new Set([name, TARGET_COLUMN, outputs[0]!])]),
    binary(isNotNull(target), "and", isNotNull(value)),
  );
  const rows = project(present, [
    { name, expression: value },
    { name: TARGET_COLUMN, expression: target },
    { name: PREDICTION, expression: column(outputs[0]!) },
    { name: BIN, expression: isOrdered ? quantileBin : value },
  ]);
  const residual = binary(target, "-", column(PREDICTION));
  const number: Expression = isMoment(type) ? { kind: "extract", field: "epoch", operand: value } : value;
  const quartile = (share: number): Expression => ({
    ...call("percentile_cont", double(share)),
    withinGroup: residual,
  });
  const binned = aggregateRows(
    rows,
    [BIN],
    [
      { name: "place", expression: asDouble(isOrdered ? call("avg", number) : NULL) },
      {
        name: "label",
        expression: isOrdered ? cast(call("min", value), "text") : call("min", cast(value, "text")),
      },
      { name: "rows", expression: asDouble(countRows) },
      { name: "low", expression: quartile(0.25) },
      { name: "middle", expression: quartile(0.5) },
      { name: "high", expression: quartile(0.75) },
      { name: "mean", expression: asDouble(call("avg", residual)) },
      { name: "actual", expression: asDouble(call("avg", target)) },
      { name: "predicted", expression: asDouble(call("avg", column(PREDICTION))) },
    ],
  );
  return {
    relation: {
      kind: "limit",
      input: binned,
      order: isOrdered
        ? [{ expression: column("place") }]
        : [{ expression: column("rows"), descending: true }],
      rows: BINS,
    },
    purpose: `residuals along ${name}`,
    read: (found) =>
      z
        .array(binRow)
        .parse(found)
        .map(({ place, label, rows, low, middle, high, mean, actual, predicted }) => ({
          place,
          label,
          rows,
          quartiles: [low, middle, high],
          mean,
          actual,
          predicted,
        })),
  };
}
