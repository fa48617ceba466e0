import {
  allOf,
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  double,
  integer,
  isNull,
  sum,
  sumWhere,
  type Expression,
} from "../../expression/ast";
import type { FrameSummary } from "../../learn/questions";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { groupedNumbers, numbersOf } from "../groups";
import type { Question } from "../question";
import { chunks, MOST_RESULT_COLUMNS } from "../result-columns";
import { target, weightSum, type FrameRows } from "./frame-rows";

/** Classes up to which their rows are counted beside everything else; a pass of their own costs more. */
export const FEW_CLASSES = 12;

/** Aggregates of a number column: where workers share the rows, PostgreSQL needs a column for each. */
const AGGREGATES = 5;

/** The part of a summary that is about all rows and their target. */
export type FrameTotals = Pick<FrameSummary, "rows" | "unanswered" | "weight" | "badWeights" | "target">;

/** A number column of a frame: how many rows have a value, and what the values are like. */
export interface NumberMoments {
  readonly column: string;
  readonly present: number;
  readonly mean: number;
  /** Population standard deviation. */
  readonly deviation: number;
  readonly varies: boolean;
}

/** What one of the questions of {@link summaryQuestions} answers; totals and classes come with the first. */
export interface SummaryPart {
  readonly totals: FrameTotals | undefined;
  readonly classes: FrameSummary["classes"];
  readonly numbers: readonly NumberMoments[];
}

const TOTALS = 8;

function totalsOf({ weight }: FrameRows, ownWeight: boolean): readonly Expression[] {
  const squares = binary(target, "*", target);
  const total = weight && call("nullif", sum(weight), integer(0));
  const mean = weight && total ? binary(sum(binary(target, "*", weight)), "/", total) : call("avg", target);
  const weightedDeviation = (weight: Expression, total: Expression): Expression => {
    const meanSquare = binary(sum(binary(weight, "*", squares)), "/", total);
    const variance = binary(meanSquare, "-", call("power", mean, integer(2)));
    return call("sqrt", call("greatest", double(0), variance));
  };
  return [
    asDouble(countRows),
    weightSum(weight),
    ownWeight ? asDouble(countWhere(isBadWeight)) : double(0),
    mean,
    weight && total ? weightedDeviation(weight, total) : call("stddev_pop", target),
    call("min", target),
    call("max", target),
    asDouble(countWhere(isNull(target))),
  ];
}

const ownWeightColumn = column(WEIGHT_COLUMN);
const isBadWeight = binary(isNull(ownWeightColumn), "or", {
  kind: "not",
  operand: allOf([binary(ownWeightColumn, ">=", double(0)), binary(ownWeightColumn, "<", double(Infinity))]),
});

function readTotals(values: readonly (number | null)[]): FrameTotals {
  const [rows, weight, badWeights, mean, deviation, smallest, largest, unanswered] = values;
  return {
    rows: rows ?? 0,
    unanswered: unanswered ?? 0,
    weight: weight ?? 0,
    badWeights: badWeights ?? 0,
    target: {
      mean: mean ?? Number.NaN,
      deviation: deviation ?? Number.NaN,
      smallest: smallest ?? Infinity,
      largest: largest ?? -Infinity,
    },
  };
}

/** Rows and weight of a class. */
function classMeasures(code: number, weight: Expression | undefined): readonly Expression[] {
  const isOfClass = binary(target, "=", integer(code));
  const rows = asDouble(countWhere(isOfClass));
  return [rows, weight === undefined ? rows : call("coalesce", sumWhere(weight, isOfClass), double(0))];
}

const momentsOf = (name: string): readonly Expression[] => {
  const value = column(name);
  return [
    asDouble(call("count", value)),
    call("avg", value),
    call("stddev_pop", value),
    asDouble(cast(binary(call("min", value), "<", call("max", value)), "integer")),
  ];
};

function readMoments(column: string, values: readonly (number | null)[]): NumberMoments {
  const [present, mean, deviation, varies] = values;
  return {
    column,
    present: present ?? 0,
    mean: mean ?? Number.NaN,
    deviation: deviation ?? Number.NaN,
    varies: varies === 1,
  };
}

/**
 * Rows, weights and target of a frame; rows and weight of classes when they are few; and of number columns
 * the values present, their mean, their deviation and whether they differ.
 * @param ownWeight whether rows have weights of their own
 * @returns one question, or more when there are many columns
 */
export function summaryQuestions(
  frame: FrameRows,
  columns: readonly string[],
  ownWeight: boolean,
  classes: number,
): readonly Question<SummaryPart>[] {
  const counted = Array.from({ length: classes > FEW_CLASSES ? 0 : classes }, (_, code) => code);
  const first = [
    ...totalsOf(frame, ownWeight),
    ...counted.flatMap((code) => classMeasures(code, frame.weight)),
  ];
  const most = Math.floor((MOST_RESULT_COLUMNS - 2 * FEW_CLASSES) / AGGREGATES) - 4;
  const parts = columns.length === 0 ? [[]] : chunks(columns, most);
  return parts.map((names, index): Question<SummaryPart> => {
    const head = index === 0 ? first : [];
    const { relation, read } = numbersOf(frame.rows, [...head, ...names.flatMap(momentsOf)]);
    return {
      relation,
      purpose: "count rows; mean and spread of each number",
      read: (rows) => {
        const values = read(rows);
        const moments = values.slice(head.length);
        return {
          totals: index === 0 ? readTotals(values) : undefined,
          classes: index > 0 ? [] : counted.map((code) => readClass(values, TOTALS + 2 * code)),
          numbers: names.map((name, place) => readMoments(name, moments.slice(4 * place, 4 * place + 4))),
        };
      },
    };
  });
}

const readClass = (values: readonly (number | null)[], from: number): FrameSummary["classes"][number] => ({
  rows: values[from] ?? 0,
  weight: values[from + 1] ?? 0,
});

/** Rows and weight of each of many classes, by code. */
export function classesQuestion(frame: FrameRows, classes: number): Question<FrameSummary["classes"]> {
  const { relation, read } = groupedNumbers(
    frame.rows,
    [TARGET_COLUMN],
    [asDouble(countRows), weightSum(frame.weight)],
  );
  return {
    relation,
    purpose: "rows of each class",
    read: (rows) => {
      const byCode = new Map(read(rows).map(({ keys, values }) => [keys[0], values]));
      return Array.from({ length: classes }, (_, code) => readClass(byCode.get(code) ?? [], 0));
    },
  };
}

/**
 * Rows and the sum of the target by level of a category; index 0 is code 1.
 * @param levels how many levels there are
 */
export function levelsQuestion(
  frame: FrameRows,
  name: string,
  levels: number,
): Question<{ readonly rows: readonly number[]; readonly sums: readonly number[] }> {
  const { relation, read } = groupedNumbers(frame.rows, [name], [asDouble(countRows), sum(target)]);
  return {
    relation,
    purpose: `rows of each ${name}`,
    read: (rows) => {
      const byCode = new Map(read(rows).map(({ keys, values }) => [keys[0], values]));
      const ofLevels = (place: number): readonly number[] =>
        Array.from({ length: levels }, (_, index) => byCode.get(index + 1)?.[place] ?? 0);
      return { rows: ofLevels(0), sums: ofLevels(1) };
    },
  };
}
