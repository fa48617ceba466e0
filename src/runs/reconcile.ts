import { takeTurn } from "@/store/database";
import { modelById } from "@/store/models";
import { findPipeline, pipelineById } from "@/store/pipelines";
import {
  listPublished,
  noteAgreed,
  noteBehind,
  noteProblem,
  retiredNumbers,
  type Published,
} from "@/store/publications";
import type { FoundFunction } from "@/warehouse/port/functions";
import type { Context } from "./context";
import { problemsOf } from "./failure";
import { functionName, MARK, publishFunctions, withdrawAllFunctions, withdrawFunctions } from "./publish";

const functionsThere = ({ warehouse }: Context): Promise<readonly FoundFunction[]> =>
  warehouse.functions.find(`${MARK} `);

/** The version that a function of a pipeline answers with; undefined when it is not of that pipeline. */
function versionOf({ comment }: FoundFunction, pipeline: string): number | undefined {
  const head = `${MARK} ${pipeline}, version `;
  return comment.startsWith(head) ? Number.parseInt(comment.slice(head.length), 10) : undefined;
}

/** Whether the functions that are there are those that were published, and answer with the version in service. */
function agrees({ pipeline, inService, names }: Published, found: readonly FoundFunction[]): boolean {
  const own = found.filter((published) => versionOf(published, pipeline) !== undefined);
  const current = own.filter((published) => published.name.replace(/_rows$/, "") === functionName(pipeline));
  return (
    current.every((published) => versionOf(published, pipeline) === inService) &&
    (names ?? []).every((name) => own.some((published) => published.name === name))
  );
}

/** Makes the functions of a pipeline those of its version in service, and gives their names. Functions of retired versions go. */
async function settle(context: Context, pipelineId: number, found: readonly FoundFunction[]): Promise<void> {
  const { db } = context.store;
  const pipeline = await pipelineById(db, pipelineId);
  if (!pipeline) return;
  try {
    for (const number of await retiredNumbers(db, pipelineId))
      if (
        found.some(
          (published) => published.name.replace(/_rows$/, "") === functionName(pipeline.name, number),
        )
      )
        await withdrawFunctions(context, pipeline.name, number);
    if (pipeline.deletedAt !== null) {
      // Functions go by the name, which another pipeline may have taken.
      if (!(await findPipeline(db, pipeline.name))) await withdrawAllFunctions(context, pipeline.name);
      return await noteAgreed(db, pipelineId, []);
    }
    const model = pipeline.inService === null ? undefined : await modelById(db, pipeline.inService);
    if (!model) await withdrawFunctions(context, pipeline.name);
    await noteAgreed(db, pipelineId, model ? await publishFunctions(context, model.id) : []);
  } catch (error) {
    await noteProblem(db, pipelineId, problemsOf(error)[0]?.message ?? "They could not be created.");
  }
}

/**
 * Brings functions into line that say something else than the version in service: after a process was killed between the two, after
 * somebody dropped one, or when a file could not be followed before. Problems are kept, and shown by Health.
 */
export async function reconcileFunctions(context: Context): Promise<void> {
  const { store } = context;
  const found = await functionsThere(context);
  for (const published of await listPublished(store.db)) {
    const { pipelineId, behind } = published;
    if (!behind && agrees(published, found)) continue;
    await takeTurn(store, pipelineId, false, async () => {
      // Somebody may have finished since the look above.
      const [now, there] = [await listPublished(store.db), await functionsThere(context)];
      const current = now.find((publication) => publication.pipelineId === pipelineId);
      if (!current || (!current.behind && agrees(current, there))) return;
      await noteBehind(store.db, pipelineId);
      await settle(context, pipelineId, there);
    });
  }
}
