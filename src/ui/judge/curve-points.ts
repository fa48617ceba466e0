import { ratesOf, type Confusion } from "@/core/evaluate/threshold";

/** Points of the ROC curve and of the precision-recall curve, from the highest threshold to the lowest. */
export function rocAndPrecision(all: readonly Confusion[]): {
  readonly roc: [number, number][];
  readonly precision: [number, number][];
} {
  const descending = [...all].reverse();
  const roc: [number, number][] = [
    [0, 0],
    ...descending.map((counts): [number, number] => [ratesOf(counts).falseAlarmRate, ratesOf(counts).recall]),
  ];
  const precision = descending
    .filter(({ tp, fp }) => tp + fp > 0)
    .map((counts): [number, number] => [ratesOf(counts).recall, ratesOf(counts).precision]);
  return { roc, precision };
}
