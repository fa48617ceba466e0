import { readFileSync } from "node:fs";
import { metricsFor, isBetter } from "@/core/evaluate/metrics";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { modelById, type ModelRow } from "@/store/models";
import { openBench, type Bench } from "../testing/warehouse";
import { loadDemo } from "./load";
import { DEMO_NOW } from "./world";

/** Every pipeline of the demo trains, and knows more than its base rate. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 0.15 }));
});
afterAll(() => bench.close());

async function trained(
  name: string,
  options: { readonly candidate?: string; readonly without?: readonly string[] } = {},
): Promise<ModelRow> {
  const run = await bench.run("train", name, { ...options, at: DEMO_NOW });
  expect(run.problems).toEqual([]);
  return (await modelById(bench.context.store.db, run.modelId!))!;
}

test.each([
  ["hours-until-collection", "plain"],
  ["arrivals-by-site-day", "plain"],
  ["latch-wear", "plain"],
  ["message-topic", "words by themselves"],
])("%s trains with its candidate “%s” and is better than the base rate", async (name, candidate) => {
  const text = readFileSync(`demo/${name}.yaml`, "utf8");
  await bench.save(text);
  const { folds, roles } = unwrap(parsePipeline(text)).file;
  const { judgement } = await trained(name, { candidate });
  const metric = roles.target.kind === "classes" ? "accuracy" : metricsFor(roles.target.kind)[0]!;
  expect(isBetter(metric, judgement!.figures[metric]!, judgement!.base[metric]!)).toBe(true);
  expect(judgement!.folds).toHaveLength(folds?.count ?? 0);
  const interval = judgement!.intervals[metric];
  // Whole compartments are held out, and at this scale they are few.
  expect(interval === undefined).toBe(judgement!.noIntervals !== undefined);
  if (!interval) return;
  const [low, high] = interval;
  expect(low).toBeLessThan(judgement!.figures[metric]!);
  expect(high).toBeGreaterThan(judgement!.figures[metric]!);
});

test("the column known only afterwards is caught by the guard, and a trial without it is honest", async () => {
  const text = readFileSync("demo/uncollected-72h.yaml", "utf8")
    .replace(/ {4}- column: reminders_sent\n.*\n/, "")
    .replace("    reminders_sent: after\n", "");
  await bench.save(text);
  const leaking = await trained("uncollected-72h", { candidate: "boosted trees" });
  expect(leaking.metrics.auc).toBeGreaterThan(0.97);
  const found = leaking
    .judgement!.findings.filter((finding) => finding.feature === "reminders_sent")
    .map((finding) => finding.code);
  expect(found).toEqual(expect.arrayContaining(["alone_too_strong", "one_dominates"]));
  const honest = await trained("uncollected-72h", { candidate: "small tree", without: ["reminders_sent"] });
  expect(honest.data.without).toEqual(["reminders_sent"]);
  expect(honest.metrics.auc).toBeLessThan(0.85);
  expect(honest.judgement!.findings.some((finding) => finding.feature !== undefined)).toBe(false);
});
