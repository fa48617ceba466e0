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

/** Trains in the warehouse, whatever the size. */
export const inWarehouse = (): Engine => "warehouse";

/** Trains on streamed rows, whatever the size. */
export const streams = (): Engine => "streaming";

/** Number columns beyond which all their cross products as sums of a statement take minutes. */
const MANY_NUMBERS = 200;

/** Trains in the warehouse unless there are very many number columns. */
export const byWidth = (_rows: number, numbers: number): Engine =>
  numbers > MANY_NUMBERS ? "streaming" : "warehouse";

export const ALL_TARGETS: readonly Task["kind"][] = ["binary", "number", "classes"];
export const CLASS_TARGETS: readonly Task["kind"][] = ["binary", "classes"];
export const BOTH_ENGINES: readonly Engine[] = ["warehouse", "streaming"];
