import { problem } from "@/core/problem";
import { parsePipeline } from "@/core/pipeline/parse";
import { labFile } from "../../../../testing/lab";
import { inFormWords } from "./form-words";

test.each([
  ["{do: limit, order: [seen], rows: 1.5}", "Must be a whole number, not 1.5."],
  ["{do: limit, order: [seen], rows: few}", "Must be a number, not a text."],
  ["{do: limit, rows: 3}", "Required."],
  ["{do: sample, by: [id], share: 4}", "Must be at most 1."],
  ["{do: encode, columns: []}", "Must have at least 1 entry."],
  ["{do: split, column: cat, at: '', into: [a]}", "Must not be empty."],
  ["{do: rolling, order: seen, last: soon, measures: {a: avg(x1)}}", "A number and a unit, such as 7 days."],
])("%s: %s", (step, words) => {
  const parsed = parsePipeline(labFile({ steps: `- ${step}` }));
  expect(parsed.ok ? [] : parsed.problems.map(inFormWords)).toEqual([words]);
});

test("what tells the person what to do next stays", () =>
  expect(inFormWords(problem("x", "There is no column “a”.", "Did you mean “b”?"))).toBe(
    "There is no column “a”. Did you mean “b”?",
  ));
