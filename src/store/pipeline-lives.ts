import { and, eq, inArray, isNull, max, ne, notInArray, or, sql } from "drizzle-orm";
import type { Database } from "./database";
import { noteBehind } from "./publications";
import {
  alerts,
  backfills,
  drafts,
  pipelines,
  pipelineVersions,
  runs,
  schedules,
  serviceChanges,
} from "./schema";
import type { PipelineRow, PipelineVersionRow } from "./pipelines";

/** All pipelines whose records there are, deleted ones too. */
export async function listEveryPipeline(db: Database): Promise<readonly PipelineRow[]> {
  return db.select().from(pipelines).orderBy(pipelines.name);
}

/** The pipeline, other than one, that has a name or had it before: its deliveries are in the ledger under it. */
export async function holderOfName(
  db: Pick<Database, "select">,
  name: string,
  except?: number,
): Promise<PipelineRow | undefined> {
  const [found] = await db
    .select()
    .from(pipelines)
    .where(
      and(
        isNull(pipelines.deletedAt),
        or(eq(pipelines.name, name), sql`${pipelines.formerNames} @> ${JSON.stringify([name])}::jsonb`),
        except === undefined ? undefined : ne(pipelines.id, except),
      ),
    );
  return found;
}

/** Gives a pipeline another name together with the version of its file that says so; the name it had stays its own. */
export async function renameWithVersion(
  db: Database,
  pipeline: PipelineRow,
  name: string,
  version: Pick<PipelineVersionRow, "text" | "planHash" | "note">,
): Promise<PipelineVersionRow> {
  const formerNames = [...new Set([...pipeline.formerNames, pipeline.name])].filter(
    (formerName) => formerName !== name,
  );
  const own = eq(pipelineVersions.pipelineId, pipeline.id);
  return db.transaction(async (tx) => {
    await tx.update(pipelines).set({ name, formerNames }).where(eq(pipelines.id, pipeline.id));
    const [newest] = await tx
      .select({ number: max(pipelineVersions.number) })
      .from(pipelineVersions)
      .where(own);
    const number = (newest?.number ?? 0) + 1;
    const [saved] = await tx
      .insert(pipelineVersions)
      .values({ ...version, pipelineId: pipeline.id, number })
      .returning();
    await tx.delete(drafts).where(eq(drafts.pipelineId, pipeline.id));
    await noteBehind(tx, pipeline.id);
    return saved!;
  });
}

/** Runs of a pipeline that wait or are under way. */
export async function openRuns(
  db: Pick<Database, "select">,
  pipelineId: number,
): Promise<readonly { readonly id: string; readonly kind: string }[]> {
  return db
    .select({ id: runs.id, kind: runs.kind })
    .from(runs)
    .where(and(eq(runs.pipelineId, pipelineId), inArray(runs.state, ["queued", "running"])));
}

/**
 * Ends a pipeline, in one transaction: nothing of it is due or in service any more, waiting runs are cancelled and others asked to
 * stop, its draft goes. Its versions, models, runs and the record of what was in service stay.
 * @param by who does it
 */
export async function endPipeline(db: Database, pipeline: PipelineRow, at: Date, by: string): Promise<void> {
  const { id } = pipeline;
  await db.transaction(async (tx) => {
    await tx.update(pipelines).set({ deletedAt: at, inService: null }).where(eq(pipelines.id, id));
    await tx.delete(schedules).where(eq(schedules.pipelineId, id));
    await tx.delete(drafts).where(eq(drafts.pipelineId, id));
    await tx
      .update(backfills)
      .set({ state: "stopped" })
      .where(and(eq(backfills.pipelineId, id), notInArray(backfills.state, ["done", "stopped"])));
    await tx
      .update(runs)
      .set({ cancelAsked: true })
      .where(and(eq(runs.pipelineId, id), inArray(runs.state, ["queued", "running"])));
    await tx
      .update(runs)
      .set({ state: "cancelled", finishedAt: sql`now()`, outcome: "cancelled: the pipeline was deleted" })
      .where(and(eq(runs.pipelineId, id), eq(runs.state, "queued")));
    await tx
      .update(alerts)
      .set({ clearedAt: sql`now()`, clearedWith: "the pipeline was deleted" })
      .where(and(eq(alerts.pipelineId, id), isNull(alerts.clearedAt)));
    await tx
      .insert(serviceChanges)
      .values({ pipelineId: id, modelId: null, by, reason: "the pipeline was deleted", at });
    await noteBehind(tx, id);
  });
}
