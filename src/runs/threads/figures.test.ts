import { judgedFigures } from "@/core/evaluate/judged-figures";
import { mix } from "@/core/numeric/random";
import { figuresOf, judgedFiguresOf } from "./figures";

const uniform = (rows: number, seed: number): Float64Array =>
  Float64Array.from({ length: rows }, (_, row) => mix(row, seed) / 4294967296);

test("figures of many rows are worked out beside the process, and are the same", async () => {
  const scores = uniform(200_000, 1);
  const draws = uniform(200_000, 2);
  const scored = {
    outputs: [scores],
    answers: scores.map((score, row) => (draws[row]! < score ? 1 : 0)),
    weights: uniform(200_000, 3),
  };
  const question = { kind: "binary" as const, scored, usual: [0.5] };
  let longest = 0;
  let last = performance.now();
  const beating = setInterval(() => {
    longest = Math.max(longest, performance.now() - last);
    last = performance.now();
  }, 10);
  let signs = 0;
  const started = performance.now();
  const found = await judgedFiguresOf(question, () => (signs += 1));
  const took = performance.now() - started;
  clearInterval(beating);
  expect(signs).toBeGreaterThan(0);
  // Timers went on: the longest they waited is a small part of it all.
  expect(longest).toBeLessThan(took / 2);
  expect(found).toEqual(judgedFigures(question));
  expect(await figuresOf("binary", scored)).toEqual(found.figures);
});
