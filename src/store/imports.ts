import { and, desc, eq, inArray, sql, type SQL } from "drizzle-orm";
import type { Choices, FileLook, LookWishes, Misfit } from "@/core/files/look";
import type { Problem } from "@/core/problem";
import type { Database } from "./database";
import { imports, type ImportState } from "./schema";

export type ImportRow = typeof imports.$inferSelect;

/** A worker that is silent for so long has lost its import: nothing was loaded, since all of it is one transaction. */
const LEASE_SECONDS = 15;
const WORKING: readonly ImportState[] = ["looking", "loading"];
/** That an import is to be worked on, nobody does, and the one before it has been loaded. */
const waits = and(
  inArray(imports.state, [...WORKING]),
  sql`${imports.worker} IS NULL`,
  sql`(${imports.afterId} IS NULL OR EXISTS (SELECT 1 FROM imports AS before WHERE before.id = ${imports.afterId} AND before.state = 'done'))`,
);

export async function addImport(
  db: Database,
  file: { readonly id: string; readonly name: string; readonly path: string; readonly bytes: number },
): Promise<ImportRow> {
  const [row] = await db.insert(imports).values(file).returning();
  return row!;
}

export async function importById(db: Database, id: string): Promise<ImportRow | undefined> {
  return (await db.select().from(imports).where(eq(imports.id, id)))[0];
}

/** Imports by their ids, in no order. */
export async function importsById(db: Database, ids: readonly string[]): Promise<readonly ImportRow[]> {
  return db
    .select()
    .from(imports)
    .where(inArray(imports.id, [...ids]));
}

export async function listImports(db: Database, limit: number): Promise<readonly ImportRow[]> {
  return db.select().from(imports).orderBy(desc(imports.createdAt)).limit(limit);
}

/** Takes an import for a worker, if it waits in this stage. Exactly one worker gets it. */
export async function claimImport(db: Database, id: string, worker: string): Promise<ImportRow | undefined> {
  const [row] = await db
    .update(imports)
    .set({
      worker,
      heartbeatAt: sql`now()`,
      stageStartedAt: sql`now()`,
      doneBytes: 0,
      doneRows: 0,
      rejected: 0,
      problems: [],
      misfits: [],
    })
    .where(and(eq(imports.id, id), waits))
    .returning();
  return row;
}

/** Notes how far an import is; tells whether it was asked to stop. */
export async function noteProgress(
  db: Database,
  id: string,
  doneBytes: number,
  doneRows: number,
  rejected: number,
): Promise<boolean> {
  const [row] = await db
    .update(imports)
    .set({ doneBytes, doneRows, rejected, heartbeatAt: sql`now()` })
    .where(eq(imports.id, id))
    .returning({ cancel: imports.cancelAsked });
  return row?.cancel ?? true;
}

export async function noteLook(db: Database, id: string, look: FileLook): Promise<void> {
  await db
    .update(imports)
    .set({ state: "looked", look, worker: null, doneBytes: look.bytes, doneRows: look.rows })
    .where(eq(imports.id, id));
}

/** Looks again with other wishes; the old findings are forgotten. */
export async function lookAgain(db: Database, id: string, wishes: LookWishes): Promise<boolean> {
  const again = await db
    .update(imports)
    .set({ state: "looking", wishes, look: null, worker: null, cancelAsked: false })
    .where(and(eq(imports.id, id), inArray(imports.state, ["looked", "failed", "cancelled"])))
    .returning({ id: imports.id });
  return again.length > 0;
}

/** Orders the load of a file that was looked at. @param after the import that has to be loaded before it */
export async function orderLoad(
  db: Database,
  id: string,
  choices: Choices,
  after: string | null = null,
): Promise<boolean> {
  const ordered = await db
    .update(imports)
    .set({ state: "loading", choices, afterId: after, worker: null, cancelAsked: false, finishedAt: null })
    .where(
      and(
        eq(imports.id, id),
        sql`${imports.look} IS NOT NULL`,
        inArray(imports.state, ["looked", "failed", "cancelled"]),
      ),
    )
    .returning({ id: imports.id });
  return ordered.length > 0;
}

export interface ImportEnd {
  readonly state: "done" | "failed" | "cancelled";
  readonly rows?: number;
  readonly rejected?: number;
  readonly problems?: readonly Problem[];
  readonly misfits?: readonly Misfit[];
}

export async function endImport(db: Database, id: string, end: ImportEnd): Promise<void> {
  await db
    .update(imports)
    .set({
      state: end.state,
      worker: null,
      finishedAt: sql`now()`,
      problems: end.problems ?? [],
      misfits: end.misfits ?? [],
      ...(end.rows === undefined ? {} : { doneRows: end.rows }),
      ...(end.rejected === undefined ? {} : { rejected: end.rejected }),
    })
    .where(and(eq(imports.id, id), inArray(imports.state, [...WORKING])));
}

export async function askCancelImport(db: Database, id: string): Promise<void> {
  await db
    .update(imports)
    .set({ cancelAsked: true })
    .where(and(eq(imports.id, id), inArray(imports.state, [...WORKING])));
  // Nobody works on it yet: it ends here.
  await db
    .update(imports)
    .set({ state: "cancelled", finishedAt: sql`now()` })
    .where(and(eq(imports.id, id), inArray(imports.state, [...WORKING]), sql`${imports.worker} IS NULL`));
}

/** Imports that wait although nobody works on them, for a worker to take. */
export async function waitingImports(db: Database): Promise<readonly string[]> {
  return (await db.select({ id: imports.id }).from(imports).where(waits)).map((waiting) => waiting.id);
}

/** Imports whose files are needed: somebody works on them, or will. */
export async function workingImports(db: Database): Promise<readonly string[]> {
  const found = await db
    .select({ id: imports.id })
    .from(imports)
    .where(inArray(imports.state, [...WORKING]));
  return found.map(({ id }) => id);
}

/** Ends the imports that a condition holds for, as failed for a reason. */
async function failWhere(db: Database, condition: SQL, why: Problem): Promise<void> {
  await db
    .update(imports)
    .set({ state: "failed", worker: null, finishedAt: sql`now()`, problems: [why] })
    .where(condition);
}

/** Ends the imports that a worker had when it ended, with the reason: nothing of them is in the table. */
export async function failImportsOf(db: Database, worker: string, why: Problem): Promise<void> {
  await failWhere(db, sql`${inArray(imports.state, [...WORKING])} AND ${imports.worker} = ${worker}`, why);
}

/** Ends the imports that wait for one that was not loaded. */
export async function failThoseBehind(db: Database): Promise<void> {
  const why: Problem = {
    code: "import_before",
    severity: "error",
    message: "An earlier file for the same table was not loaded.",
    hint: "Load that file first, then this one.",
  };
  await failWhere(
    db,
    sql`${imports.state} = 'loading' AND EXISTS (SELECT 1 FROM imports AS before WHERE before.id = ${imports.afterId} AND before.state IN ('failed', 'cancelled'))`,
    why,
  );
}

/** Imports whose worker died: they failed, and nothing of them is in the table. */
export async function failSilentImports(db: Database): Promise<void> {
  const lost: Problem = {
    code: "worker_lost",
    severity: "error",
    message: "The worker stopped while loading this file.",
    hint: "Nothing was loaded. Load it again.",
  };
  await failWhere(
    db,
    sql`${inArray(imports.state, [...WORKING])} AND ${imports.worker} IS NOT NULL AND ${imports.heartbeatAt} < now() - make_interval(secs => ${LEASE_SECONDS})`,
    lost,
  );
}
