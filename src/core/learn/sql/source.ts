import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { hidden } from "../../sql/hidden";
import { quoteDouble, quoteIdentifier } from "../../sql/quote";

/** A table of rows to ask about: the frame with its own numbers, or the sample with numbers on the solver's scale. */
export interface FrameSource {
  /** Quoted name. */
  readonly table: string;
  /** Condition for the rows that count, as SQL; empty for all. */
  readonly where: string;
  /** The row's weight as SQL; undefined when every row counts once. */
  readonly weight: string | undefined;
  readonly scaled: boolean;
}

/** Names that the rows of a statement have beside the user's features: answer, predictor, weight, and the loss with its first and second slope. */
export const [ANSWER, PREDICTOR, TIMES, LOSS, RESIDUAL, CURVATURE] = [
  "y",
  "eta",
  "times",
  "loss",
  "residual",
  "curvature",
].map(hidden) as [string, string, string, string, string, string];

export const TARGET = quoteIdentifier(TARGET_COLUMN);
export const WEIGHT = quoteIdentifier(WEIGHT_COLUMN);

/** PostgreSQL allows 1,664 result columns; stay below. */
export const MOST_RESULTS = 1600;

export const whereOf = (source: FrameSource): string => (source.where === "" ? "" : ` WHERE ${source.where}`);

/** exp() as PostgreSQL can take it: it refuses results too small for a double, which in the core are simply 0. */
export const safeExp = (value: string): string =>
  `exp(least(700::double precision, greatest(-700::double precision, ${value})))`;

/** Sum of the weights. */
export const weightSum = (weight: string | undefined): string =>
  weight === undefined ? "count(*)::double precision" : `sum(${weight})`;

/** The weight of a row: its own, times that of its class. */
export function weightOf(own: boolean, balance: readonly number[] | undefined): string | undefined {
  const parts = [
    ...(own ? [WEIGHT] : []),
    ...(balance ? [`(ARRAY[${balance.map(quoteDouble).join(",")}])[${TARGET}::integer + 1]`] : []),
  ];
  return parts.length === 0 ? undefined : parts.join(" * ");
}

export function chunks<T>(items: readonly T[], size: number): readonly (readonly T[])[] {
  return Array.from({ length: Math.ceil(items.length / size) }, (_, index) =>
    items.slice(index * size, (index + 1) * size),
  );
}
