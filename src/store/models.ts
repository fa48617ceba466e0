import { and, count, desc, eq, getTableColumns, inArray, isNotNull, max, sql } from "drizzle-orm";
import type { Leaving } from "@/core/evaluate/leaving";
import type { Challenge } from "@/core/evaluate/challenge";
import { keptCurve } from "@/core/evaluate/kept-curve";
import type { Figures } from "@/core/evaluate/metrics";
import type { Promised } from "@/core/evaluate/promise";
import type { ScoreCurve } from "@/core/evaluate/score-curve";
import { judgementSchema, type Judgement } from "@/core/evaluate/judgement";
import { modelSchema } from "@/core/learn/model";
import { containsWords } from "./contains";
import type { Database } from "./database";
import { noteAgreed, noteBehind } from "./publications";
import { modelVersions, pipelines, serviceChanges, type BlindLook } from "./schema";

export type ModelRow = typeof modelVersions.$inferSelect;

/** A stored model is data from outside the code: it is checked when read. */
const checked = (row: ModelRow): ModelRow => ({
  ...row,
  model: modelSchema.parse(row.model),
  judgement: row.judgement === null ? null : judgementSchema.parse(row.judgement),
});

/** Adds a model version under the pipeline's next number. A run makes at most one: a retry gets the one it made. */
export async function addModel(
  db: Database,
  values: Omit<typeof modelVersions.$inferInsert, "number" | "id">,
): Promise<ModelRow> {
  return db.transaction(async (tx) => {
    await tx.select().from(pipelines).where(eq(pipelines.id, values.pipelineId)).for("update");
    const [made] = await tx.select().from(modelVersions).where(eq(modelVersions.runId, values.runId));
    if (made) return checked(made);
    const [newest] = await tx
      .select({ number: sql<number>`coalesce(max(${modelVersions.number}), 0)` })
      .from(modelVersions)
      .where(eq(modelVersions.pipelineId, values.pipelineId));
    const [row] = await tx
      .insert(modelVersions)
      .values({ ...values, number: (newest?.number ?? 0) + 1 })
      .returning();
    return row!;
  });
}

export async function modelById(db: Database, id: number): Promise<ModelRow | undefined> {
  const [row] = await db.select().from(modelVersions).where(eq(modelVersions.id, id));
  return row && checked(row);
}

/** Columns that lists do without. */
const LARGE = ["model", "learned", "shape", "buckets", "judgement"] as const;

/** A model version without what it learned, which can be large: for lists. */
export type ModelSummary = Omit<ModelRow, (typeof LARGE)[number]> & {
  readonly intervals: Judgement["intervals"] | null;
  readonly base: Judgement["base"] | null;
  readonly findings: Judgement["findings"] | null;
};

/** Model versions without what lists do without. */
function summaries(db: Database) {
  const all = getTableColumns(modelVersions);
  const large = new Set<string>(LARGE);
  const columns = Object.fromEntries(Object.entries(all).filter(([name]) => !large.has(name))) as Omit<
    typeof all,
    (typeof LARGE)[number]
  >;
  const part = <T>(name: string) => sql<T | null>`${all.judgement} -> ${name}`;
  return db
    .select({
      ...columns,
      intervals: part<Judgement["intervals"]>("intervals"),
      base: part<Judgement["base"]>("base"),
      findings: part<Judgement["findings"]>("findings"),
    })
    .from(modelVersions)
    .$dynamic();
}

/** Model versions, newest first. */
export async function listModels(db: Database, pipelineId?: number): Promise<readonly ModelSummary[]> {
  const query = summaries(db);
  return (pipelineId === undefined ? query : query.where(eq(modelVersions.pipelineId, pipelineId))).orderBy(
    desc(modelVersions.createdAt),
  );
}

export const MODEL_FILTERS = ["in_service", "starred", "retired"] as const;
export type ModelFilter = (typeof MODEL_FILTERS)[number];

/** Model versions, newest first: those of a page, and how many there are. Words are looked for in the pipeline's name, candidate and note. */
export async function modelPage(
  db: Database,
  wanted: {
    readonly words: string;
    readonly filter: ModelFilter | undefined;
    readonly offset: number;
    readonly limit: number;
  },
): Promise<{ readonly entries: readonly ModelSummary[]; readonly all: number }> {
  const filters = {
    in_service: eq(pipelines.inService, modelVersions.id),
    starred: eq(modelVersions.starred, true),
    retired: isNotNull(modelVersions.retiredAt),
  };
  const condition = and(
    wanted.filter && filters[wanted.filter],
    containsWords(wanted.words, [pipelines.name, modelVersions.candidate, modelVersions.note]),
  );
  const owner = eq(pipelines.id, modelVersions.pipelineId);
  const [found, [counted]] = await Promise.all([
    db
      .select({ id: modelVersions.id })
      .from(modelVersions)
      .innerJoin(pipelines, owner)
      .where(condition)
      .orderBy(desc(modelVersions.createdAt))
      .limit(wanted.limit)
      .offset(wanted.offset),
    db.select({ all: count() }).from(modelVersions).innerJoin(pipelines, owner).where(condition),
  ]);
  const ids = found.map(({ id }) => id);
  const entries =
    ids.length === 0
      ? []
      : await summaries(db).where(inArray(modelVersions.id, ids)).orderBy(desc(modelVersions.createdAt));
  return { entries, all: counted?.all ?? 0 };
}

/** How many versions each pipeline has; the pipeline with most versions first. */
export async function versionCounts(
  db: Database,
): Promise<readonly { readonly pipelineId: number; readonly versions: number }[]> {
  return db
    .select({ pipelineId: modelVersions.pipelineId, versions: count() })
    .from(modelVersions)
    .groupBy(modelVersions.pipelineId)
    .orderBy(desc(count()), desc(max(modelVersions.createdAt)));
}

/** What the holdouts of versions promise, by version. */
export async function promisesOf(
  db: Database,
  ids: readonly number[],
): Promise<ReadonlyMap<number, Promised>> {
  if (ids.length === 0) return new Map();
  const { id, metrics, judgement, buckets } = modelVersions;
  const part = <T>(name: string) => sql<T | null>`${judgement} -> ${name}`;
  const rows = await db
    .select({
      id,
      metrics,
      buckets,
      unweighted: part<Figures>("unweighted"),
      curve: part<ScoreCurve>("curve"),
      unweightedCurve: part<ScoreCurve>("unweightedCurve"),
    })
    .from(modelVersions)
    .where(inArray(id, [...ids]));
  return new Map(
    rows.map((row) => [
      row.id,
      {
        metrics: row.metrics,
        unweighted: row.unweighted ?? undefined,
        curve:
          row.unweightedCurve ??
          keptCurve({ judgement: row.curve ? { curve: row.curve } : null, buckets: row.buckets }),
      },
    ]),
  );
}

/** Who changes what is in service, and why. */
export interface ServiceReason {
  readonly by?: string | undefined;
  readonly reason?: string | undefined;
  /** When, on the application's clock; now when left out. */
  readonly at?: Date | undefined;
  /** Functions that say already what the version says; when left out, they have to be brought into line. */
  readonly published?: readonly string[] | undefined;
}

/** Puts one version of a pipeline in service, or none. The change is recorded. Tells whether the version may be: a retired one, or one of another pipeline, may not. */
export async function setInService(
  db: Database,
  pipelineId: number,
  modelId: number | null,
  { by, reason, at, published }: ServiceReason = {},
): Promise<boolean> {
  return db.transaction(async (tx) => {
    if (modelId !== null) {
      const [fits] = await tx
        .select({ retiredAt: modelVersions.retiredAt })
        .from(modelVersions)
        .where(and(eq(modelVersions.id, modelId), eq(modelVersions.pipelineId, pipelineId)))
        .for("update");
      if (!fits || fits.retiredAt !== null) return false;
    }
    await tx.update(pipelines).set({ inService: modelId }).where(eq(pipelines.id, pipelineId));
    await tx
      .insert(serviceChanges)
      .values({ pipelineId, modelId, by: by ?? null, reason: reason ?? null, ...(at ? { at } : {}) });
    if (published) await noteAgreed(tx, pipelineId, published);
    else await noteBehind(tx, pipelineId);
    return true;
  });
}

/** Retires a version at a time, or takes it back with null. Not while it is in service: tells whether it was done. */
export async function setRetired(db: Database, id: number, retiredAt: Date | null): Promise<boolean> {
  return db.transaction(async (tx) => {
    const [changed] = await tx
      .update(modelVersions)
      .set({ retiredAt })
      .where(
        and(
          eq(modelVersions.id, id),
          sql`NOT EXISTS (SELECT FROM ${pipelines} WHERE ${pipelines.inService} = ${id})`,
        ),
      )
      .returning({ pipelineId: modelVersions.pipelineId });
    if (changed) await noteBehind(tx, changed.pipelineId);
    return changed !== undefined;
  });
}

export async function serviceHistory(
  db: Database,
  pipelineId: number,
): Promise<readonly (typeof serviceChanges.$inferSelect)[]> {
  return db
    .select()
    .from(serviceChanges)
    .where(eq(serviceChanges.pipelineId, pipelineId))
    .orderBy(desc(serviceChanges.id));
}

/** Writes a note on a version, or marks it with a star. */
export async function remarkModel(
  db: Database,
  id: number,
  remark: { readonly note?: string | null; readonly starred?: boolean },
): Promise<void> {
  await db.update(modelVersions).set(remark).where(eq(modelVersions.id, id));
}

/** Keeps how a version did against the one in service. */
export async function recordChallenge(db: Database, id: number, challenge: Challenge): Promise<void> {
  await db.update(modelVersions).set({ challenge }).where(eq(modelVersions.id, id));
}

/** Records what left the warehouse while a version was trained and judged. */
export async function recordLeaving(
  db: Database,
  { id, data }: Pick<ModelRow, "id" | "data">,
  leaving: Leaving,
): Promise<void> {
  await db
    .update(modelVersions)
    .set({ data: { ...data, leaving } })
    .where(eq(modelVersions.id, id));
}

/** Records what the blind part showed. It is opened once: a later look does not replace the first. */
export async function recordBlindLook(db: Database, id: number, look: BlindLook): Promise<void> {
  await db
    .update(modelVersions)
    .set({ blind: look })
    .where(and(eq(modelVersions.id, id), sql`${modelVersions.blind} IS NULL`));
}

/** Keeps importances and dependences that were measured afterwards, in place of those of the training. */
export async function recordExplanation(
  db: Database,
  id: number,
  found: Pick<Judgement, "importance" | "importanceOf" | "dependence">,
): Promise<void> {
  await db
    .update(modelVersions)
    .set({ judgement: sql`${modelVersions.judgement} || ${JSON.stringify(found)}::jsonb` })
    .where(eq(modelVersions.id, id));
}
