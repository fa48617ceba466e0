import type { Engine, Task } from "./task";

/** A learner in words, and what it can do. */
export interface LearnerFacts {
  readonly title: string;
  readonly about: string;
  readonly targets: readonly Task["kind"][];
  readonly engines: readonly Engine[];
  /** The engine when the file does not say, by the number of training rows and of number columns. */
  readonly prefers: (rows: number, numbers: number) => Engine;
}

export const inWarehouse = (): Engine => "warehouse";
/** Number columns beyond which all their cross products as sums of a statement take minutes. */
export const MANY_NUMBERS = 200;
export const byWidth = (_rows: number, numbers: number): Engine =>
  numbers > MANY_NUMBERS ? "streaming" : "warehouse";
export const streams = (): Engine => "streaming";
export const ALL: readonly Task["kind"][] = ["binary", "number", "classes"];
export const CLASSES: readonly Task["kind"][] = ["binary", "classes"];
export const BOTH: readonly Engine[] = ["warehouse", "streaming"];
