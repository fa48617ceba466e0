import { and, eq, isNotNull, isNull, or, sql } from "drizzle-orm";
import type { Database } from "./database";
import { modelVersions, pipelines, publications } from "./schema";

type Writer = Pick<Database, "insert">;

/** Records that the functions of a pipeline are about to change, before anything does. Stays until {@link noteAgreed}. */
export async function noteBehind(db: Writer, pipelineId: number): Promise<void> {
  await db
    .insert(publications)
    .values({ pipelineId, behindSince: sql`now()` })
    .onConflictDoUpdate({
      target: publications.pipelineId,
      set: { behindSince: sql`coalesce(${publications.behindSince}, now())` },
    });
}

/** Records that the functions of a pipeline say what its version in service says, and which they are. */
export async function noteAgreed(db: Writer, pipelineId: number, names: readonly string[]): Promise<void> {
  const agreed = { behindSince: null, problem: null, names: [...names] };
  await db
    .insert(publications)
    .values({ pipelineId, ...agreed })
    .onConflictDoUpdate({ target: publications.pipelineId, set: agreed });
}

/** Records why the functions of a pipeline could not be made to agree. */
export async function noteProblem(
  db: Pick<Database, "update">,
  pipelineId: number,
  problem: string,
): Promise<void> {
  await db.update(publications).set({ problem }).where(eq(publications.pipelineId, pipelineId));
}

/** What should be published for a pipeline. */
export interface Published {
  readonly pipelineId: number;
  readonly pipeline: string;
  /** Number of the version in service. */
  readonly inService: number | null;
  /** Names of its functions when they last agreed; null when nothing was ever published. */
  readonly names: readonly string[] | null;
  readonly behind: boolean;
}

/** What should be published, pipeline by pipeline. */
export async function listPublished(db: Database): Promise<readonly Published[]> {
  return (
    db
      .select({
        pipelineId: pipelines.id,
        pipeline: pipelines.name,
        inService: modelVersions.number,
        names: publications.names,
        behind: sql<boolean>`${publications.behindSince} IS NOT NULL`,
      })
      .from(pipelines)
      .leftJoin(publications, eq(pipelines.id, publications.pipelineId))
      .leftJoin(modelVersions, eq(modelVersions.id, pipelines.inService))
      // A deleted pipeline has nothing to publish once what it had is withdrawn.
      .where(or(isNull(pipelines.deletedAt), isNotNull(publications.behindSince)))
      .orderBy(pipelines.name)
  );
}

/** Numbers of the versions of a pipeline that have been retired. */
export async function retiredNumbers(db: Database, pipelineId: number): Promise<readonly number[]> {
  const rows = await db
    .select({ number: modelVersions.number })
    .from(modelVersions)
    .where(and(eq(modelVersions.pipelineId, pipelineId), isNotNull(modelVersions.retiredAt)));
  return rows.map((row) => row.number);
}

/** Pipelines whose functions may say something else than their version in service. */
export async function listBehind(
  db: Database,
): Promise<
  readonly { readonly pipeline: string; readonly seconds: number; readonly problem: string | null }[]
> {
  return db
    .select({
      pipeline: pipelines.name,
      seconds: sql<number>`extract(epoch FROM now() - ${publications.behindSince})::double precision`,
      problem: publications.problem,
    })
    .from(publications)
    .innerJoin(pipelines, eq(pipelines.id, publications.pipelineId))
    .where(isNotNull(publications.behindSince))
    .orderBy(pipelines.name);
}
