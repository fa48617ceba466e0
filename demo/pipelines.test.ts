import { readFileSync } from "node:fs";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { modelById } from "@/store/models";
import { openBench, type Bench } from "../testing/warehouse";
import { loadDemo } from "./load";
import { DEMO_NOW } from "./world";

/** Every pipeline of the demo trains with every candidate, and is better than its base rate. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 0.3 }));
});
afterAll(() => bench.close());

test.each(["uncollected-72h", "hours-until-collection", "arrivals-by-site-day", "latch-wear", "message-topic"])("%s trains with each of its candidates", async (name) => {
  const text = readFileSync(`demo/${name}.yaml`, "utf8");
  await bench.save(text);
  const { candidates } = unwrap(parsePipeline(text)).file;
  for (const candidate of candidates) {
    const run = await bench.run("train", name, { candidate: candidate.name, at: DEMO_NOW });
    expect(run.problems).toEqual([]);
    const { judgement } = (await modelById(bench.context.store.db, run.modelId!))!;
    console.log(name, candidate.name, JSON.stringify(judgement!.figures), JSON.stringify(judgement!.base), JSON.stringify(judgement!.findings.map((each) => [each.code, each.feature])), (run.finishedAt!.getTime() - run.startedAt!.getTime()) / 1000);
  }
}, 400_000);
