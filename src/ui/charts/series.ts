import { symbolCircle, symbolDiamond, symbolSquare, symbolTriangle, type SymbolType } from "d3-shape";

/** What a series stands for; each look differs from the others without colour too. */
export type Look = "first" | "second" | "third" | "fourth" | "training" | "bound" | "reference";

export interface Style {
  readonly stroke: string;
  /** Lengths of dashes and gaps; a full line without. */
  readonly dash: string | undefined;
  readonly symbol: SymbolType;
}

export const STYLES: Readonly<Record<Look, Style>> = {
  first: { stroke: "var(--woad)", dash: undefined, symbol: symbolCircle },
  second: { stroke: "var(--madder)", dash: "7 3", symbol: symbolSquare },
  third: { stroke: "var(--moss)", dash: "2 2.5", symbol: symbolTriangle },
  fourth: { stroke: "var(--plum)", dash: "9 3 2 3", symbol: symbolDiamond },
  training: { stroke: "var(--faded)", dash: "2 3", symbol: symbolTriangle },
  bound: { stroke: "var(--faded)", dash: "3 3", symbol: symbolCircle },
  reference: { stroke: "var(--faded)", dash: "5 5", symbol: symbolCircle },
};

/** Looks of several series of one kind, in their order. */
export const LOOKS: readonly Look[] = ["first", "second", "third", "fourth"];

export interface Point {
  readonly x: number;
  readonly y: number;
  /** Size of a dot relative to the others, from 0 to 1; all alike without. */
  readonly weight?: number;
  /** An interval around y, drawn as a thin line. */
  readonly low?: number;
  readonly high?: number;
  /** Written beside it. */
  readonly label?: string;
  /** What a person reads of it beside its values. */
  readonly note?: string;
}

export interface Series {
  readonly name: string;
  readonly look: Look;
  /** In ascending order of x where they are a line. */
  readonly points: readonly Point[];
  /** How it is drawn: a line, steps that keep a value until the next, a line with a dot at each point, or dots alone. */
  readonly mark?: "line" | "steps" | "dotted line" | "dots";
  /** A smooth reading of dots is not read out by itself. */
  readonly silent?: boolean;
}

/** An area between two values, such as an interval. */
export interface Band {
  readonly name: string;
  readonly look: Look;
  readonly points: readonly { readonly x: number; readonly low: number; readonly high: number }[];
}

/** @returns points of pairs of numbers */
export const pointsOf = (pairs: readonly (readonly [number, number])[]): Point[] =>
  pairs.map(([x, y]) => ({ x, y }));
