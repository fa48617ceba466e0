import type { ScoreCurve } from "@/core/evaluate/score-curve";

/** Parts of the range of scores in which rows are counted. */
const PARTS = 40;

/**
 * Share of each class's rows in equal parts of the range of scores.
 * @returns for each class the middle of a part and its share, ascending
 */
export function scoreShape({ points, positives, negatives }: ScoreCurve): {
  readonly positive: [number, number][];
  readonly negative: [number, number][];
} {
  const [low, high] = [points.at(-1)?.[0] ?? 0, points[0]?.[0] ?? 1];
  const width = (high - low) / PARTS || 1;
  const counts = Array.from({ length: PARTS }, () => [0, 0]);
  points.forEach(([score, tp, fp], index) => {
    const [, before, others] = points[index - 1] ?? [0, 0, 0];
    const part = counts[Math.min(PARTS - 1, Math.floor((score - low) / width))]!;
    part[0]! += tp - before;
    part[1]! += fp - others;
  });
  const shares = (place: 0 | 1, all: number): [number, number][] =>
    counts.map((pair, part) => [low + (part + 0.5) * width, all > 0 ? pair[place]! / all : 0]);
  return { positive: shares(0, positives), negative: shares(1, negatives) };
}
