import { PlanBuilder, type LearnedValues } from "@/core/plan/build";
import { baseRelation, learnRelation, sourcesOf } from "@/core/plan/frame";
import { completenessRelation, measurableColumns } from "@/core/plan/measure";
import type { CheckedPlan } from "@/core/plan/plan";
import { printRelation } from "@/core/relation/print";
import { outputColumns, type Relation } from "@/core/relation/relation";
import type { Warehouse } from "@/warehouse/warehouse";
import { pageOfQuery, type Page } from "@/warehouse/sample";
import { tableFacts } from "@/warehouse/facts";

/** How many learned previews and counts are remembered. */
const REMEMBERED = 200;

/** Answers that cost a look at many rows, kept while file, sources and time are the same. */
class Remembered<T> {
  private readonly values = new Map<string, Promise<T>>();

  get(key: string, make: () => Promise<T>): Promise<T> {
    const known = this.values.get(key);
    if (known) return known;
    const fresh = make();
    this.values.set(key, fresh);
    fresh.catch(() => this.values.delete(key));
    const [oldest] = this.values.keys();
    if (this.values.size > REMEMBERED && oldest !== undefined) this.values.delete(oldest);
    return fresh;
  }
}

const learnedValues = new Remembered<LearnedValues>();
const counts = new Remembered<StepCounts>();

export interface StepCounts {
  readonly rows: number;
  /** Values present, by column. */
  readonly present: Readonly<Record<string, number>>;
}

/** Previews change with the hour, not with the second: run_time() is cut to it. */
export function previewTime(now: Date): string {
  const hour = new Date(now);
  hour.setUTCMinutes(0, 0, 0);
  return hour.toISOString();
}

/** What the source rows are at the moment, as part of a key. */
async function sourceMarkers(plan: CheckedPlan, warehouse: Warehouse): Promise<string> {
  const facts = await Promise.all(sourcesOf(plan).map((each) => tableFacts(warehouse, each)));
  return facts.map((each) => each.marker).join(" ");
}

/** A key under which everything computed from these rows by this plan may be kept. */
async function keyOf(plan: CheckedPlan, warehouse: Warehouse, runTime: string): Promise<string> {
  return `${plan.hash} ${runTime} ${await sourceMarkers(plan, warehouse)}`;
}

/**
 * What the learned steps before a position learn from today's training rows. Nothing is written:
 * where a run would build the base table, the preview reads its query in its place.
 */
async function learnedUpTo(plan: CheckedPlan, warehouse: Warehouse, position: number, runTime: string): Promise<LearnedValues> {
  if (position <= plan.learnsFrom) return {};
  const key = `${await keyOf(plan, warehouse, runTime)} learned ${position}`;
  return learnedValues.get(key, async () => {
    const earlier = await learnedUpTo(plan, warehouse, position - 1, runTime);
    const step = plan.main.steps[position - 1]?.step;
    const base = { schema: "preview", table: "base" };
    const question = step && learnRelation(plan, position - 1, earlier, base);
    if (!step || !question) return earlier;
    const printed = printRelation(withBase(question, baseRelation(plan)), { runTime });
    const [row] = await warehouse.read(printed);
    return { ...earlier, [String(position - 1)]: step.learned(row ?? {}) };
  });
}

/** Puts the base query where a relation reads the (not yet existing) base table. */
function withBase(relation: Relation, base: Relation): Relation {
  switch (relation.kind) {
    case "table": return relation.source.schema === "preview" ? base : relation;
    case "join": return { ...relation, left: withBase(relation.left, base), right: withBase(relation.right, base) };
    case "project": case "filter": case "aggregate": case "label": case "fence":
      return { ...relation, input: withBase(relation.input, base) };
  }
}

async function relationAt(plan: CheckedPlan, warehouse: Warehouse, strand: string, after: number, runTime: string): Promise<Relation> {
  const main = strand === plan.main.name;
  const learned = main ? await learnedUpTo(plan, warehouse, after, runTime) : {};
  return new PlanBuilder(plan).strand(strand, after, learned);
}

/** Exact rows and completeness of every column after some steps of a strand. */
export async function stepCounts(plan: CheckedPlan, warehouse: Warehouse, strand: string, after: number, runTime: string): Promise<StepCounts> {
  const key = `${await keyOf(plan, warehouse, runTime)} counts ${JSON.stringify([strand, after])}`;
  return counts.get(key, async () => {
    const relation = await relationAt(plan, warehouse, strand, after, runTime);
    const columns = measurableColumns(relation);
    const [row] = await warehouse.read(printRelation(completenessRelation(relation, columns), { runTime }));
    return { rows: Number(row?.["rows"] ?? 0), present: Object.fromEntries(columns.map((name, index) => [name, Number(row?.[`c${index}`] ?? 0)])) };
  });
}

export interface StepPreview {
  readonly sql: string;
  readonly page: Page;
  /** What the step itself learned, when it does. */
  readonly learned: unknown;
}

const PREVIEW_ROWS = 50;

/** The first rows after a step, the SQL that makes them, and what the step learned. */
export async function stepPreview(plan: CheckedPlan, warehouse: Warehouse, strand: string, after: number, runTime: string): Promise<StepPreview> {
  const relation = await relationAt(plan, warehouse, strand, after, runTime);
  const sql = printRelation(relation, { runTime });
  const learned = strand === plan.main.name && after > 0 ? (await learnedUpTo(plan, warehouse, after, runTime))[String(after - 1)] : undefined;
  return { sql, learned: learned ?? null, page: await pageOfQuery(warehouse, sql, outputColumns(relation), PREVIEW_ROWS) };
}

