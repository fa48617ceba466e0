import type { Places, Values } from "./model-kind";
import type { FeatureRow } from "./task";

/** A row by the names of its columns. */
export const rowOf = (values: Readonly<Values>, places: Places): FeatureRow =>
  Object.fromEntries([...places].map(([name, place]) => [name, values[place] ?? null]));
