import { parsePipeline } from "@/core/pipeline/parse";
import { labFile } from "../../testing/lab";
import { parseFile } from "./parse-file";

const large = (more = ""): string => {
  const values = Array.from({ length: 6000 }, (_, index) => `kind ${index}: group ${index % 17}`).join(", ");
  return labFile({ name: "large", steps: `- {do: map, column: cat, values: {${values}}${more}}` });
};

/** Counts the turns of the event loop until stopped: one or two if a parse held the thread, many if it did not. */
function countTurns(): { stop: () => number } {
  let [turns, stopped] = [0, false];
  const turn = (): void => {
    turns += 1;
    if (!stopped) setImmediate(turn);
  };
  setImmediate(turn);
  const stop = (): number => {
    stopped = true;
    return turns;
  };
  return { stop };
}

test("a large file is read beside the process, as if it were read here, problems with their lines", async () => {
  const text = large(", restt: keep");
  expect(text.length).toBeGreaterThan(100_000);
  const turns = countTurns();
  const found = await parseFile(text);
  expect(turns.stop()).toBeGreaterThan(10);
  const here = parsePipeline(text);
  expect(found.ok || here.ok).toBe(false);
  expect(!found.ok && found.problems).toEqual(!here.ok && here.problems);
  expect(!found.ok && found.problems[0]?.location).toMatchObject({ line: expect.any(Number) as number });
  const good = await parseFile(large());
  expect(good.ok && good.value.file.strands[0]?.steps.at(-1)).toMatchObject({ do: "map" });
});
