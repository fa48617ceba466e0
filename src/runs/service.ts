import type { PipelineFile } from "@/core/pipeline/schema";
import { problem, ProblemError } from "@/core/problem";
import {
  listModels,
  modelById,
  serviceHistory,
  setInService,
  setRetired,
  type ModelRow,
  type ServiceReason,
} from "@/store/models";
import { clearAlert } from "@/store/alerts";
import { takeTurn } from "@/store/database";
import { noteAgreed, noteBehind } from "@/store/publications";
import { listSchedules, newestVersion, pipelineById, versionById, type PipelineRow } from "@/store/pipelines";
import type { Context } from "./context";
import { isTimed } from "./due";
import { functionName, publishFunctions, withdrawFunctions } from "./publish";
import { reconcileFunctions } from "./reconcile";
import { nextSlots } from "@/core/schedule/slots";
import { whyEnded } from "./pipelines/taken";
import { parseFile } from "./parse-file";

async function opened(
  context: Context,
  modelId: number,
): Promise<{ readonly model: ModelRow; readonly pipeline: PipelineRow }> {
  const { db } = context.store;
  const model = await modelById(db, modelId);
  const pipeline = model && (await pipelineById(db, model.pipelineId));
  if (!model || !pipeline) throw new ProblemError(problem("unknown_model", "Model version not found."));
  const ended = whyEnded(pipeline);
  if (ended) throw new ProblemError(ended);
  return { model, pipeline };
}

/** What an alert is about that says that a person has to decide which version serves. */
export const undecidedMatter = (pipelineId: number): string => `undecided:${pipelineId}`;

/**
 * Puts a version in service: its functions first, so that a version which cannot have them does not serve. That they are about to
 * change is recorded before, and the service moves together with the record that they have: killed in between, they are brought back
 * into line with what serves.
 * @param instead the version that is to be replaced, where the decision rests on a comparison with it
 * Problems: unknown_model, version_retired, service_changed, and those of the functions. Whatever goes wrong, what was in service stays
 * there.
 */
export async function putInService(
  context: Context,
  modelId: number,
  reason: ServiceReason,
  instead?: number,
): Promise<ModelRow> {
  const { db } = context.store;
  const { model, pipeline } = await opened(context, modelId);
  const retired = problem(
    "version_retired",
    `Version ${model.number} is retired.`,
    "Restore it first, or retrain.",
  );
  if (model.retiredAt !== null) throw new ProblemError(retired);
  try {
    await takeTurn(context.store, pipeline.id, true, async () => {
      const now = await pipelineById(db, pipeline.id);
      if (instead !== undefined && now?.inService !== instead)
        throw new ProblemError(
          problem(
            "service_changed",
            "The version in service was changed in the meantime.",
            "Compare both, and put the better one in service.",
          ),
        );
      await noteBehind(db, pipeline.id);
      const published = await publishFunctions(context, modelId);
      const change = { ...reason, published, at: await context.now() };
      if (!(await setInService(db, pipeline.id, modelId, change))) throw new ProblemError(retired);
      await clearAlert(db, undecidedMatter(pipeline.id), `version ${model.number} was put in service`);
    });
  } catch (error) {
    await reconcileFunctions(context).catch(() => undefined);
    throw error;
  }
  return model;
}

/**
 * Lets the functions of the version in service follow a file that was saved: they answer what a delivery would write, and whom the
 * file names. A file that prepares rows in another way says nothing of that version.
 */
export async function followFile(context: Context, pipelineId: number): Promise<void> {
  const { db } = context.store;
  const pipeline = await pipelineById(db, pipelineId);
  const model = pipeline && pipeline.inService !== null ? await modelById(db, pipeline.inService) : undefined;
  const newest = await newestVersion(db, pipelineId);
  if (!model || newest?.planHash !== model.planHash) return reconcileFunctions(context);
  await takeTurn(context.store, pipelineId, true, async () => {
    // Another version may have been put in service while others had their turn.
    const now = await pipelineById(db, pipelineId);
    if (now && now.inService !== null)
      await noteAgreed(db, pipelineId, await publishFunctions(context, now.inService));
  });
}

/** Takes whatever is in service out of it, and withdraws the functions that follow the service. */
export async function takeOutOfService(
  context: Context,
  pipeline: Pick<PipelineRow, "id" | "name">,
  reason: ServiceReason,
): Promise<void> {
  const { db } = context.store;
  await takeTurn(context.store, pipeline.id, true, async () => {
    await setInService(db, pipeline.id, null, { ...reason, at: await context.now() });
    await withdrawFunctions(context, pipeline.name);
    await noteAgreed(db, pipeline.id, []);
  });
}

/** Retires a version: it can no longer be put in service, and its functions are dropped; its record stays. Problem: version_in_service. */
export async function retire(context: Context, modelId: number): Promise<void> {
  const { store } = context;
  const { model, pipeline } = await opened(context, modelId);
  await takeTurn(store, pipeline.id, true, async () => {
    if (!(await setRetired(store.db, modelId, await context.now())))
      throw new ProblemError(
        problem(
          "version_in_service",
          `Version ${model.number} is in service.`,
          "Put another version in service first.",
        ),
      );
    await withdrawFunctions(context, pipeline.name, model.number);
  });
  await reconcileFunctions(context);
}

/** Lets a retired version be put in service again. */
export async function takeBack(context: Context, modelId: number): Promise<void> {
  await opened(context, modelId);
  await setRetired(context.store.db, modelId, null);
}

/** What putting a version in service, or taking it out, will do. */
export interface Consequences {
  readonly version: number;
  readonly candidate: string;
  /** What the guard found in the version that would serve. */
  readonly doubts: readonly string[];
  /** The version that serves now. */
  readonly now: { readonly id: number; readonly number: number; readonly candidate: string } | null;
  /** Numbers of the files that the two were trained from, when they differ. */
  readonly files: readonly [number, number] | null;
  readonly deliveries: readonly { readonly name: string; readonly tables: readonly string[] }[];
  readonly schedules: readonly { readonly name: string; readonly next: string | null }[];
  /** Functions whose answers will change, or that will be gone. */
  readonly functions: readonly string[];
  /** The version that served before this one, for going back. */
  readonly before: { readonly id: number; readonly number: number } | null;
}

const fileOf = async (text: string | undefined): Promise<PipelineFile | undefined> => {
  const parsed = text === undefined ? undefined : await parseFile(text);
  return parsed?.ok ? parsed.value.file : undefined;
};

/** Looks at what depends on the version in service of a version's pipeline. */
export async function consequencesOf(context: Context, modelId: number): Promise<Consequences> {
  const { db } = context.store;
  const { model, pipeline } = await opened(context, modelId);
  const now =
    pipeline.inService === null || pipeline.inService === modelId
      ? undefined
      : await modelById(db, pipeline.inService);
  const [newest, own, other] = [
    await newestVersion(db, pipeline.id),
    await versionById(db, model.pipelineVersionId),
    now && (await versionById(db, now.pipelineVersionId)),
  ];
  const file = await fileOf(newest?.planHash === model.planHash ? newest.text : own?.text);
  const time = await context.now();
  const models = await listModels(db, pipeline.id);
  const served = (await serviceHistory(db, pipeline.id)).find(
    (event) =>
      event.modelId !== null &&
      event.modelId !== pipeline.inService &&
      models.some((known) => known.id === event.modelId && known.retiredAt === null),
  );
  const before = models.find((model) => model.id === served?.modelId);
  return {
    version: model.number,
    candidate: model.candidate,
    doubts: [
      ...new Set(
        (model.judgement?.findings ?? [])
          .filter((finding) => finding.feature !== undefined)
          .map((finding) => finding.message),
      ),
    ],
    now: now ? { id: now.id, number: now.number, candidate: now.candidate } : null,
    files: own && other && own.number !== other.number ? [other.number, own.number] : null,
    deliveries: (file?.delivery ?? []).map((delivery) => ({
      name: delivery.name,
      tables: [...delivery.routes.map((route) => route.table), delivery.table],
    })),
    schedules: (await listSchedules(db, [pipeline.id]))
      .filter((schedule) => schedule.run === "score")
      .map((schedule) => ({
        name: schedule.name,
        next:
          schedule.paused || !isTimed(schedule)
            ? null
            : (nextSlots(schedule.cron, schedule.zone, time, 1)[0]?.toISOString() ?? null),
      })),
    functions: file?.functions ? [functionName(pipeline.name), `${functionName(pipeline.name)}_rows`] : [],
    before: before ? { id: before.id, number: before.number } : null,
  };
}
