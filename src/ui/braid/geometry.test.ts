import { readFileSync } from "node:fs";
import { DEMO_CATALOG } from "../../../testing/catalog";
import { loadGrammar } from "@/core/expression/parse";
import { braidOf, type Braid } from "@/core/plan/braid";
import { checkPipeline } from "@/core/plan/check";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import {
  bodyWidth,
  crossingX,
  FAMILY_LOOK,
  rowsOf,
  stretchSpan,
  threadWeight,
  type BraidRow,
} from "./geometry";

let braid: Braid;
beforeAll(async () => {
  await loadGrammar();
  braid = braidOf(
    unwrap(
      checkPipeline(unwrap(parsePipeline(readFileSync("demo/uncollected-72h.yaml", "utf8"))), DEMO_CATALOG),
    ),
  );
});

const names = (rows: readonly BraidRow[]): readonly string[] =>
  rows.map((row) => {
    if (row.kind === "group") return `# ${row.group.strand}`;
    if (row.kind === "folded") return `+ ${row.count}`;
    return row.thread.name;
  });

test("threads that no step touches and no role needs are folded away, strand by strand", () => {
  const rows = names(rowsOf(braid, new Set()));
  expect(rows.filter((row) => row.startsWith("#"))).toEqual([
    "# parcels",
    "# town weather",
    "# sites",
    "# recipients",
  ]);
  expect(rows).not.toContain("deadline_at");
  expect(rows).toContain("weight_g");
  // collected_at is excluded, but a step reads it to make the answer.
  expect(rows).toContain("collected_at");
  const open = names(rowsOf(braid, new Set(["parcels"])));
  expect(open).toContain("deadline_at");
  expect(open).toContain("reminders_sent");
  expect(open.filter((row) => row === "opened_on")).toEqual([]);
});

test("every thread is drawn once, folded or not", () => {
  const all = braid.groups.flatMap((group) => group.threads.length).reduce((sum, value) => sum + value, 0);
  const folded = rowsOf(braid, new Set());
  expect(
    folded
      .map((row) => (row.kind === "folded" ? row.count : Number(row.kind === "thread")))
      .reduce((sum, count) => sum + count, 0),
  ).toBe(all);
  expect(
    rowsOf(braid, new Set(braid.groups.map((group) => group.strand))).filter((row) => row.kind === "thread"),
  ).toHaveLength(all);
});

test("stretches lie between their crossings, from the left edge to the right end", () => {
  const last = braid.crossings.length;
  for (const stretch of braid.groups
    .flatMap((group) => group.threads)
    .flatMap((thread) => thread.stretches)) {
    const [from, to] = stretchSpan(stretch, last);
    expect(from).toBeLessThanOrEqual(to);
    expect(from).toBe(stretch.from < 0 ? 0 : crossingX(stretch.from));
    expect(to).toBeLessThanOrEqual(bodyWidth(braid));
  }
});

test("a complete thread is the thickest, a few gaps are a step, and an empty one is still there", () => {
  expect(threadWeight(1)).toBeGreaterThan(threadWeight(0.999) + 0.8);
  expect(threadWeight(0.9)).toBeGreaterThan(threadWeight(0.1));
  expect(threadWeight(0)).toBeGreaterThan(0.4);
});

test("types differ in hue or in dash, so that neither is needed alone", () => {
  const looks = Object.values(FAMILY_LOOK);
  expect(new Set(looks.map((look) => look.dash)).size).toBe(looks.length);
});
