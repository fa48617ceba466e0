import { readFileSync } from "node:fs";
import { DEMO_CATALOG } from "../../../testing/catalog";
import { loadGrammar } from "../expression/parse";
import { parsePipeline } from "../pipeline/parse";
import { unwrap } from "../problem";
import { braidOf, type Braid, type Thread } from "./braid";
import { checkPipeline } from "./check";

const DEMO = readFileSync("demo/uncollected-72h.yaml", "utf8");
const weave = (text: string): Braid =>
  braidOf(unwrap(checkPipeline(unwrap(parsePipeline(text)), DEMO_CATALOG)));
const thread = (braid: Braid, strand: string, name: string): Thread =>
  braid.groups.find((group) => group.strand === strand)!.threads.find((thread) => thread.name === name)!;
const marks = (braid: Braid, of: Thread): readonly string[] =>
  of.marks.map((mark) => `${mark.kind} at ${braid.crossings[mark.crossing]!.name}`);

beforeAll(() => loadGrammar());

test("steps stand in the order of execution, strands with the main one first", () => {
  const braid = weave(DEMO);
  expect(braid.crossings.map((crossing) => crossing.name)).toEqual([
    "day of reading",
    "weather by day",
    "delivered only",
    "times and answer",
    "join sites",
    "join recipients",
    "join weather",
    "weather and week",
    "fill numbers",
    "fill age band",
    "encode size",
    "scale weight",
    "no longer needed",
  ]);
  expect(braid.groups.map((group) => [group.strand, group.from, group.main])).toEqual([
    ["parcels", "larkmere.parcels", true],
    ["town weather", "larkmere.weather", false],
    ["sites", "larkmere.sites", false],
    ["recipients", "larkmere.recipients", false],
  ]);
});

test("a joined column is one thread from its own strand into the main one", () => {
  const braid = weave(DEMO);
  const setting = thread(braid, "sites", "setting");
  expect(marks(braid, setting)).toEqual(["joins at join sites"]);
  expect(setting.role).toBe("feature");
  expect(setting.stretches[0]).toMatchObject({ from: -1, to: 4, strand: "sites" });
  expect(setting.stretches.at(-1)).toMatchObject({ to: braid.crossings.length, strand: "parcels" });
});

test("marks say what happens to a column, in order, and where it ends", () => {
  const braid = weave(DEMO);
  expect(marks(braid, thread(braid, "parcels", "weight_g"))).toEqual([
    "learns at fill numbers",
    "learns at scale weight",
  ]);
  expect(marks(braid, thread(braid, "parcels", "carrier"))).toEqual([
    "reads at times and answer",
    "ends at no longer needed",
  ]);
  expect(thread(braid, "parcels", "carrier").role).toBeUndefined();
  expect(marks(braid, thread(braid, "parcels", "size_class"))).toEqual(["learns at encode size"]);
  expect(thread(braid, "parcels", "collected_at")).toMatchObject({
    role: "excluded",
    because: "It is the target itself, in another form.",
  });
});

test("stretches of a thread follow each other without gap or overlap", () => {
  const braid = weave(DEMO);
  for (const thread of braid.groups.flatMap((group) => group.threads)) {
    thread.stretches
      .slice(1)
      .forEach((stretch, index) => expect(stretch.from).toBe(thread.stretches[index]!.to));
    thread.stretches.forEach((stretch) => expect(stretch.to).toBeGreaterThanOrEqual(stretch.from));
  }
});

test("a renamed column stays one thread, also when two swap their names", () => {
  const braid = weave(
    DEMO.replace(
      "- do: scale\n        name: scale weight\n        columns: [weight_g]\n        method: standard",
      "- do: rename\n        name: swap\n        columns: {compartments: weight_g, weight_g: compartments}",
    ),
  );
  expect(marks(braid, thread(braid, "sites", "weight_g"))).toEqual(["joins at join sites", "writes at swap"]);
  expect(marks(braid, thread(braid, "parcels", "compartments"))).toEqual([
    "learns at fill numbers",
    "writes at swap",
  ]);
});
