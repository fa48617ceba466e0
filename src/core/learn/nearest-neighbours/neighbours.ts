import { formatNumber } from "../../format/numbers";
import { z } from "zod";
import { failure, problem, success, warning, type Problem, type Result } from "../../problem";
import { checkSummary } from "../linear/diagnose";
import { isConstant } from "../left-out";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions } from "../questions";
import type { NeighbourSettings } from "./facts";
import { classCount, type FeatureRow } from "../task";

/** k nearest neighbours as data: the rows that others are compared with, column by column. */
export const neighbourModelSchema = z.object({
  algorithm: z.literal("nearest_neighbours"),
  /** Whether the classes are no and yes. */
  binary: z.boolean(),
  k: z.number(),
  weighting: z.enum(["equal", "distance"]),
  /** Number of classes; 0 for numbers. */
  classes: z.number(),
  /** Values are standardised; a missing one counts as the mean. */
  numbers: z.array(
    z.object({ column: z.string(), centre: z.number(), spread: z.number(), values: z.array(z.number()) }),
  ),
  categories: z.array(z.object({ column: z.string(), values: z.array(z.string().nullable()) })),
  answers: z.array(z.number()),
  fit: fitRecord.extend({ among: z.number() }),
});
export type NeighbourModel = z.infer<typeof neighbourModelSchema>;

/**
 * Keeps the rows that others are compared with: all, or a sample by the rows' random numbers. Distances are Euclidean over
 * standardised numbers; a category that differs adds 1 to the squared distance. Source: Hastie, Tibshirani and Friedman, The
 * Elements of Statistical Learning, 2nd ed., section 13.3.
 */
export async function fitNeighbours(
  ask: FrameQuestions,
  settings: NeighbourSettings,
  options: FitOptions,
): Promise<Result<Fitted<NeighbourModel>>> {
  const summary = await ask.summary();
  const found = checkSummary(summary, "mean");
  if (found.length > 0) return failure(...found);
  const data = ask.columns;
  if (!data)
    return failure(
      problem(
        "needs_streaming",
        "Nearest neighbours store training rows, so rows must stream to the worker.",
        "Set engine: streaming.",
      ),
    );
  const order = Array.from({ length: data.rows }, (_, row) => row)
    .sort((left, right) => data.draw[left]! - data.draw[right]!)
    .slice(0, settings.most_rows);
  const warnings: Problem[] =
    summary.rows > settings.most_rows
      ? [
          warning(
            "neighbours_sampled",
            `Of ${formatNumber(summary.rows)} training rows, ${formatNumber(settings.most_rows)} are stored for comparison.`,
            "Raise most_rows; scoring time grows in proportion.",
          ),
        ]
      : [];
  const numbers = summary.numbers.flatMap((number, index) => {
    if (number.missing === summary.rows || isConstant(number)) return [];
    const { values } = data.numbers[index]!;
    return [
      {
        column: number.column,
        centre: number.mean,
        spread: number.deviation,
        values: order.map((row) =>
          Number.isNaN(values[row]!) ? 0 : (values[row]! - number.mean) / number.deviation,
        ),
      },
    ];
  });
  const categories = options.categories.map(({ column, levels }) => {
    const { codes } = data.categories.find((category) => category.column === column)!;
    return { column, values: order.map((row) => levels[codes[row]! - 1] ?? null) };
  });
  return success({
    warnings,
    model: {
      algorithm: "nearest_neighbours",
      binary: ask.task.kind === "binary",
      k: Math.min(settings.k, order.length),
      weighting: settings.weighting,
      classes: classCount(ask.task),
      numbers,
      categories,
      answers: order.map((row) => data.target[row]!),
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes: [],
        among: order.length,
      },
    },
  });
}

export interface Neighbour {
  /** Position among the rows kept. */
  readonly place: number;
  readonly distance: number;
  readonly weight: number;
}

/** The rows nearest to a row, nearest first; of equal distances the earlier one. */
export function nearest(model: NeighbourModel, row: FeatureRow): readonly Neighbour[] {
  const scaled = model.numbers.map((number) => {
    const value = row[number.column];
    return value === null || value === undefined ? 0 : (Number(value) - number.centre) / number.spread;
  });
  const levels = model.categories.map((category) => row[category.column] ?? null);
  const nearestPlaces: number[] = [];
  const squares: number[] = [];
  for (let place = 0; place < model.answers.length; place += 1) {
    const farthest = squares.length < model.k ? Infinity : squares[squares.length - 1]!;
    const square = squareTo(model, scaled, levels, { place, farthest });
    if (squares.length === model.k && !(square < farthest)) continue;
    // Of rows that are equally far the one that stands first comes first.
    let at = squares.length;
    while (at > 0 && square < squares[at - 1]!) at -= 1;
    squares.splice(at, 0, square);
    nearestPlaces.splice(at, 0, place);
    squares.length = Math.min(squares.length, model.k);
    nearestPlaces.length = squares.length;
  }
  return nearestPlaces.map((place, index) => ({
    place,
    distance: Math.sqrt(squares[index]!),
    weight: model.weighting === "equal" ? 1 : 1 / (Math.sqrt(squares[index]!) + NEAR),
  }));
}

/** The squared distance to a kept row; or, as soon as it is known to be farther than the farthest that counts, some number beyond. */
function squareTo(
  { numbers, categories }: NeighbourModel,
  scaled: readonly number[],
  levels: readonly (string | number | null)[],
  { place, farthest }: { readonly place: number; readonly farthest: number },
): number {
  let sum = 0;
  for (let index = 0; index < numbers.length; index += 1) {
    const apart = scaled[index]! - numbers[index]!.values[place]!;
    sum += apart * apart;
    if (sum > farthest) return sum;
  }
  for (let index = 0; index < categories.length; index += 1)
    sum += categories[index]!.values[place] === levels[index] ? 0 : 1;
  return sum;
}

/** Added to a distance before it is divided by, so that an equal row does not count without bound. */
export const NEAR = 1e-9;

/** The mean answer of the neighbours, or the share of each class among them. */
export function vote(model: NeighbourModel, row: FeatureRow): readonly number[] {
  const found = nearest(model, row);
  const total = found.reduce((sum, neighbour) => sum + neighbour.weight, 0);
  if (model.classes === 0)
    return [
      found.reduce((sum, neighbour) => sum + neighbour.weight * model.answers[neighbour.place]!, 0) / total,
    ];
  return Array.from(
    { length: model.classes },
    (_, code) =>
      found.reduce(
        (sum, neighbour) => sum + (model.answers[neighbour.place] === code ? neighbour.weight : 0),
        0,
      ) / total,
  );
}
