import { roundSignificant } from "@/core/format/numbers";

/** A corner in the units of the two columns. */
export type Corner = readonly [x: number, y: number];

/** A region over two columns with its label. */
export interface Region {
  readonly label: string;
  readonly points: readonly Corner[];
}

/** Regions as a file has them. */
export const regionsOf = (value: unknown): readonly Region[] =>
  Array.isArray(value) ? (value as readonly Region[]).filter(({ points }) => Array.isArray(points)) : [];

/** A number with as many digits as can be told apart over a span. */
export const roundOver = (value: number, span: number): number =>
  roundSignificant(
    value,
    Math.max(3, Math.ceil(Math.log10(Math.abs(value) / Math.max(span, 1e-12) + 1)) + 3),
  );

/** Corners as a person types them: two numbers each, with semicolons between. */
export const writeCorners = (points: readonly Corner[]): string =>
  points.map(([x, y]) => `${x}, ${y}`).join("; ");

/**
 * Reads what {@link writeCorners} writes, with any spaces; undefined where it is no region of at least
 * three corners.
 */
export function readCorners(text: string): readonly Corner[] | undefined {
  const corners = text
    .split(";")
    .filter((part) => part.trim() !== "")
    .map((part) =>
      part
        .trim()
        .split(/[\s,]+/)
        .map(Number),
    );
  const good = corners.every((numbers) => numbers.length === 2 && numbers.every(Number.isFinite));
  return good && corners.length >= 3 ? corners.map(([x, y]) => [x!, y!] as const) : undefined;
}
