import type { FeatureRow } from "./task";

/** The values of a model's features in a row of a warehouse's answer. NaN lies above every number, as infinity does. */
export function featureRow(
  row: Readonly<Record<string, unknown>>,
  numbers: Iterable<string>,
  categories: Iterable<string>,
): FeatureRow {
  const found: Record<string, number | string | null> = {};
  for (const name of numbers) {
    const value = row[name];
    const ordered = Number.isNaN(Number(value)) ? Infinity : Number(value);
    found[name] = value === null || value === undefined ? null : ordered;
  }
  for (const name of categories)
    found[name] = row[name] === null || row[name] === undefined ? null : String(row[name]);
  return found;
}
