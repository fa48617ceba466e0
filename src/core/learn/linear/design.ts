import type { CategoryLevels } from "../../plan/frame";

/** One coefficient: the intercept, a number column, or one level of a category (the reference level has none). */
export type Term =
  | { readonly kind: "intercept" }
  | { readonly kind: "number"; readonly column: string }
  | { readonly kind: "level"; readonly column: string; readonly level: string | null; readonly code: number };

/**
 * The columns of the design in the order of the coefficient vector, with the affine change of scale in which the solver works:
 * z = (x - centre) / spread. Levels keep centre 0, so that their columns stay sparse.
 */
export interface Design {
  readonly terms: readonly Term[];
  readonly centres: Float64Array;
  readonly spreads: Float64Array;
  readonly numbers: readonly string[];
  /** What stands in for a missing value, by number column; undefined where none is missing. */
  readonly fills: readonly (number | undefined)[];
  /** For squared loss, the scale on which the target is fitted: y = (target - centre) / spread. */
  readonly target: { readonly centre: number; readonly spread: number };
  readonly categories: readonly (CategoryLevels & {
    /** Position in the coefficient vector by code; -1 for the reference level and for code 0. */
    readonly positions: readonly number[];
  })[];
}

export interface NumberSummary {
  readonly column: string;
  readonly mean: number;
  /** Population standard deviation. */
  readonly deviation: number;
  /** Whether the smallest and the largest value differ, where that is known. */
  readonly varies?: boolean;
  /** What stands in for a missing value. */
  readonly fill?: number | undefined;
}

/**
 * Lays out the coefficient vector.
 * @param categories levels with the number of training rows each, in code order
 * @param reference per column, the level the others are measured against; the first in code order when absent
 */
export function layOut(
  numbers: readonly NumberSummary[],
  categories: readonly (CategoryLevels & { readonly rows: readonly number[] })[],
  reference: Readonly<Record<string, string>>,
  target: Design["target"] = { centre: 0, spread: 1 },
): Design {
  const terms: Term[] = [
    { kind: "intercept" },
    ...numbers.map((number): Term => ({ kind: "number", column: number.column })),
  ];
  const centres = [0, ...numbers.map((number) => number.mean)];
  const spreads = [1, ...numbers.map((number) => number.deviation)];
  const laidOut = categories.map((category) => {
    const wanted = reference[category.column];
    const referenceIndex = Math.max(0, wanted === undefined ? 0 : category.levels.indexOf(wanted));
    const total = category.rows.reduce((sum, rows) => sum + rows, 0);
    const positions = [
      -1,
      ...category.levels.map((level, index) => {
        if (index === referenceIndex) return -1;
        const share = (category.rows[index] ?? 0) / Math.max(1, total);
        terms.push({ kind: "level", column: category.column, level, code: index + 1 });
        centres.push(0);
        spreads.push(Math.sqrt(Math.max(share * (1 - share), 1e-12)));
        return terms.length - 1;
      }),
    ];
    return { column: category.column, levels: category.levels, positions };
  });
  return {
    terms,
    centres: Float64Array.from(centres),
    spreads: Float64Array.from(spreads),
    numbers: numbers.map((number) => number.column),
    fills: numbers.map((number) => number.fill),
    target,
    categories: laidOut,
  };
}

/** Coefficients on the original scale, from those on the solver's. */
export function toOriginal(design: Design, scaled: Float64Array): Float64Array {
  const original = scaled.map((value, index) => value / design.spreads[index]!);
  let intercept = scaled[0]!;
  for (let index = 1; index < scaled.length; index += 1)
    intercept -= original[index]! * design.centres[index]!;
  original[0] = intercept;
  return original;
}

/** How a term is called in messages and tables. */
export function termName(term: Term): string {
  switch (term.kind) {
    case "intercept":
      return "intercept";
    case "number":
      return term.column;
    case "level":
      return `${term.column} = ${term.level ?? "(missing)"}`;
  }
}
