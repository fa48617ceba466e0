import { parsePipeline } from "@/core/pipeline/parse";
import { labFile } from "../../testing/lab";
import { TurnCounter } from "../../testing/turns";
import { parseFile } from "./parse-file";

const large = (more = ""): string => {
  const values = Array.from({ length: 6000 }, (_, index) => `kind ${index}: group ${index % 17}`).join(", ");
  return labFile({ name: "large", steps: `- {do: map, column: cat, values: {${values}}${more}}` });
};

test("a large file is read beside the process, as if it were read here, problems with their lines", async () => {
  const text = large(", restt: keep");
  expect(text.length).toBeGreaterThan(100_000);
  const turns = new TurnCounter();
  const found = await parseFile(text);
  expect(turns.stop()).toBeGreaterThan(3);
  const here = parsePipeline(text);
  expect(found.ok || here.ok).toBe(false);
  expect(!found.ok && found.problems).toEqual(!here.ok && here.problems);
  expect(!found.ok && found.problems[0]?.location).toMatchObject({ line: expect.any(Number) as number });
  const good = await parseFile(large());
  expect(good.ok && good.value.file.strands[0]?.steps.at(-1)).toMatchObject({ do: "map" });
});
