import { judgedFigures } from "@/core/evaluate/judged-figures";
import { mix } from "@/core/numeric/random";
import { TurnCounter } from "../../../testing/turns";
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
  const turns = new TurnCounter();
  let signs = 0;
  const found = await judgedFiguresOf(question, () => (signs += 1));
  expect(turns.stop()).toBeGreaterThan(3);
  expect(signs).toBeGreaterThan(0);
  expect(found).toEqual(judgedFigures(question));
  expect(await figuresOf("binary", scored)).toEqual(found.figures);
});
