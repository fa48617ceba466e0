import { PlanBuilder, type LearnedValues } from "@/core/plan/build";
import { baseRelation, learnRelations } from "@/core/plan/frame";
import { measurableColumns } from "@/core/plan/measure";
import { UNBUILT_BASE, withBase } from "@/core/plan/unbuilt-base";
import { placeKeys } from "@/core/plan/place-keys";
import type { CheckedPlan } from "@/core/plan/plan";
import { completenessQuestion, type StepCounts } from "@/core/questions/completeness";
import { pageQuestion, type Page } from "@/core/questions/page";
import { rowsQuestion } from "@/core/questions/rows";
import type { Relation } from "@/core/relation/relation";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { Remembered } from "./remembered";

const learnedValues = new Remembered<LearnedValues>();
const counts = new Remembered<StepCounts>();

/** Previews change with the hour, not with the second: run_time() is cut to it. */
export function previewTime(now: Date): string {
  const hour = new Date(now);
  hour.setUTCMinutes(0, 0, 0);
  return hour.toISOString();
}

/** A key under which what is computed from the rows at a place may be kept: the steps so far, the sources as they are, and the time. */
export async function placeKey(
  plan: CheckedPlan,
  warehouse: Warehouse,
  { strand, after }: { readonly strand: string; readonly after: number },
  runTime: string,
): Promise<string> {
  const facts = await Promise.all(plan.sources.map((source) => warehouse.catalog.facts(source)));
  return `${placeKeys(plan)(strand, after)} ${runTime} ${facts.map((fact) => fact.marker).join(" ")}`;
}

/**
 * What the learned steps before a position learn from today's training rows. Nothing is written:
 * where a run would build the base table, the preview reads its query in its place.
 */
export async function learnedUpTo(
  plan: CheckedPlan,
  warehouse: Warehouse,
  position: number,
  runTime: string,
): Promise<LearnedValues> {
  if (position <= plan.learnsFrom) return {};
  const key = `learned ${await placeKey(plan, warehouse, { strand: plan.main.name, after: position }, runTime)}`;
  return learnedValues.get(key, async () => {
    const earlier = await learnedUpTo(plan, warehouse, position - 1, runTime);
    const step = plan.main.steps[position - 1]?.step;
    const base = UNBUILT_BASE;
    const questions = step ? learnRelations(plan, position - 1, earlier, base) : [];
    if (!step || questions.length === 0) return earlier;
    const answers = await Promise.all(
      questions.map((relation) => {
        const rows = withBase(relation, baseRelation(plan));
        return warehouse.ask(rowsQuestion(rows, `what "${step.name}" learns`), { runTime });
      }),
    );
    return { ...earlier, [String(position - 1)]: step.learned(answers) };
  });
}

/** The rows after some steps of a strand, with everything learned on the way. */
export async function relationAt(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<Relation> {
  const main = strand === plan.main.name;
  const learned = main ? await learnedUpTo(plan, warehouse, after, runTime) : {};
  return new PlanBuilder(plan).strand(strand, after, learned);
}

/** Exact rows and completeness of every column after some steps of a strand. */
export async function stepCounts(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<StepCounts> {
  const key = `counts ${await placeKey(plan, warehouse, { strand, after }, runTime)}`;
  return counts.get(key, async () => {
    const relation = await relationAt(plan, warehouse, strand, after, runTime);
    const columns = measurableColumns(relation);
    return warehouse.ask(completenessQuestion(relation, columns), { runTime });
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
export async function stepPreview(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<StepPreview> {
  const relation = await relationAt(plan, warehouse, strand, after, runTime);
  const sql = warehouse.dialect.printRelation(relation, { runTime });
  const learned =
    strand === plan.main.name && after > 0
      ? (await learnedUpTo(plan, warehouse, after, runTime))[String(after - 1)]
      : undefined;
  return {
    sql,
    learned: learned ?? null,
    page: await warehouse.ask(pageQuestion(relation, "rows after a step", { rows: PREVIEW_ROWS }), {
      runTime,
      milliseconds: 20_000,
    }),
  };
}

/** How many rows PostgreSQL expects after some steps of a strand, before anything is counted; undefined where it cannot say. */
export function estimatedRows(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<number | undefined> {
  // What is learned does not change how many rows there are, and need not be known for a guess.
  const known = strand === plan.main.name ? Math.min(after, plan.learnsFrom) : after;
  return warehouse.estimate(new PlanBuilder(plan).strand(strand, known), { runTime, milliseconds: 5000 });
}
