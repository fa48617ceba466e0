import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { askingFor } from "@/warehouse/asking";
import { findByName } from "./find";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.save(labFile({ name: "found" }));
});
afterAll(() => bench.close());

const namesOf = async (typed: string): Promise<readonly string[]> =>
  (await findByName(bench.context, typed)).map(({ group, name }) => `${group}: ${name}`);

test("commands, pipelines with a stage, tables and columns are found by a part of their names", async () => {
  expect(await namesOf("new pip")).toContain("Do: New pipeline");
  expect(await namesOf("found deliv")).toContain("Pipelines: found: deliver");
  expect(await namesOf("lab.")).toContain("Tables: lab.rows");
  expect(await namesOf("no such name at all")).toEqual([]);
});

test("a table that was made a moment ago is found, whether or not the box was open then", async () => {
  await namesOf("lab.");
  await bench.sql("CREATE TABLE lab.made_just_now (id int)");
  await namesOf("");
  expect(await namesOf("made_just")).toContain("Tables: lab.made_just_now");
  await bench.sql("CREATE TABLE lab.made_meanwhile (id int)");
  await new Promise((resolve) => setTimeout(resolve, 1100));
  expect(await namesOf("made_mean")).toContain("Tables: lab.made_meanwhile");
});

test("a request that is given up leaves no empty catalog behind for the next letter", async () => {
  await namesOf("");
  const stop = new AbortController();
  const first = askingFor(stop.signal, () => findByName(bench.context, ""));
  stop.abort();
  await first.catch(() => undefined);
  expect(await namesOf("lab.rows")).toContain("Tables: lab.rows");
});
