import { predictionDelivery } from "@/core/pipeline/deliveries";
import type { CheckedPlan } from "@/core/plan/plan";
import { GIVEN, givenParameters } from "@/core/plan/given";
import { predictGiven, predictionColumns, scoreRelation, type AnsweringVersion } from "@/core/plan/score";
import { taskOf } from "@/core/plan/frame";
import { fitsStatement } from "@/core/learn/scoring";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { pruneUnread } from "@/core/relation/prune";
import { modelById, type ModelRow } from "@/store/models";
import { newestVersion, pipelineById, versionById } from "@/store/pipelines";
import type { FunctionDefinition } from "@/warehouse/port/functions";
import type { Context } from "./context";
import { planOfVersion } from "./version-plan";
import { parseFile } from "./parse-file";

/** How a function's comment begins, so that only functions of ours are ever replaced or dropped. */
export const MARK = "Ravlen pipeline";

/**
 * What a function of a pipeline is called: predict_NAME for the version in service, predict_NAME_v3 for a version.
 * The one over all rows ends in _rows.
 */
export function functionName(pipeline: string, version?: number): string {
  const name = pipeline.toLowerCase().replaceAll(/[^\p{L}\p{N}_]+/gu, "_");
  return `predict_${name.slice(0, 40)}${version === undefined ? "" : `_v${version}`}`;
}

function rowFunction(
  plan: CheckedPlan,
  version: AnsweringVersion,
  name: string,
  about: string,
): FunctionDefinition {
  const predicted = predictGiven(plan, version, GIVEN);
  const relation = pruneUnread(predicted);
  const parameters = givenParameters(plan, relation);
  const unfit = parameters.find((parameter) => parameter.type === "other" || parameter.type === "sparse");
  if (unfit)
    throw new ProblemError(
      problem(
        "not_a_parameter",
        `"${unfit.name}" has a type that a function cannot take.`,
        "Cast it to text or a number in an earlier step.",
      ),
    );
  return {
    name,
    parameters,
    returns: predictionColumns(taskOf(plan, version.shape)),
    relation,
    comment: `${about}: the prediction for one row, given as it is before "${plan.main.steps[plan.learnsFrom]?.step.name ?? "the model"}".`,
  };
}

function rowsFunction(
  plan: CheckedPlan,
  version: AnsweringVersion,
  name: string,
  about: string,
): FunctionDefinition {
  const relation = scoreRelation(plan, { ...version, columns: [], stamps: [] });
  const keys = plan.file.roles.key.map((key) => ({
    name: key,
    type: plan.main.output.get(key)?.type ?? "text",
  }));
  return {
    name: `${name}_rows`,
    parameters: [],
    returns: [...keys, ...predictionColumns(taskOf(plan, version.shape))],
    relation,
    comment: `${about}: predictions for all rows to score now, as a delivery would write them.`,
  };
}

/** How the comments of a pipeline's functions begin. */
export const beginningOf = (pipeline: string): string => `${MARK} ${pipeline},`;

/**
 * What is published of a version: the newest file says so when only deliveries and functions have changed in it,
 * else its own.
 */
interface Wish {
  readonly pipeline: string;
  readonly text: string;
  /** Roles that may ask; undefined when the file wants no functions. */
  readonly roles: readonly string[] | undefined;
}

async function wishOf({ store: { db } }: Context, model: ModelRow): Promise<Wish> {
  const [pipeline, newest, own] = [
    await pipelineById(db, model.pipelineId),
    await newestVersion(db, model.pipelineId),
    await versionById(db, model.pipelineVersionId),
  ];
  const file = newest?.planHash === model.planHash ? newest : own;
  if (!pipeline || !file) throw new ProblemError(problem("unknown_model", "Model version not found."));
  const { functions } = unwrap(await parseFile(file.text)).file;
  return { pipeline: pipeline.name, text: file.text, roles: functions?.grant_to };
}

/** What a version needs to answer. */
async function answering(
  context: Context,
  model: ModelRow,
  text: string,
): Promise<{ readonly plan: CheckedPlan; readonly version: AnsweringVersion }> {
  const plan = await planOfVersion(context, model, { text });
  return {
    plan,
    version: {
      learned: model.learned,
      shape: model.shape,
      model: model.model,
      threshold: predictionDelivery(plan.file.delivery)?.threshold ?? 0.5,
    },
  };
}

/**
 * Makes the functions of a version that has been put in service: one per version, and those whose names follow
 * the service. Drops them when the file asks for none. All or nothing, in one transaction. Problems: too_large,
 * name_taken, not_a_parameter, schema_not_granted.
 */
export async function publishFunctions(context: Context, modelId: number): Promise<readonly string[]> {
  const model = await modelById(context.store.db, modelId);
  if (!model) throw new ProblemError(problem("unknown_model", "Model version not found."));
  const { pipeline, text, roles } = await wishOf(context, model);
  if (roles === undefined) {
    for (const number of [undefined, model.number]) await withdrawFunctions(context, pipeline, number);
    return [];
  }
  if (!fitsStatement(model.model))
    throw new ProblemError(
      problem(
        "too_large",
        "This version is too large for a statement, so it cannot be a function.",
        "Take functions out of the file, or train a smaller model.",
      ),
    );
  const { plan, version } = await answering(context, model, text);
  const about = `${MARK} ${pipeline}, version ${model.number}`;
  const names = [functionName(pipeline, model.number), functionName(pipeline)];
  const definitions = names.flatMap((name) =>
    [rowFunction, rowsFunction].map((define) => define(plan, version, name, about)),
  );
  await context.warehouse.functions.replace(beginningOf(pipeline), definitions, roles);
  return definitions.map(({ name }) => name);
}

/** Drops all functions of a pipeline: those that follow the service, and those of versions. */
export const withdrawAllFunctions = ({ warehouse }: Context, pipeline: string): Promise<void> =>
  warehouse.functions.drop(beginningOf(pipeline));

/** Drops functions of a pipeline: those that follow the service, or those of one version. */
export function withdrawFunctions({ warehouse }: Context, pipeline: string, version?: number): Promise<void> {
  const name = functionName(pipeline, version);
  return warehouse.functions.drop(beginningOf(pipeline), [name, `${name}_rows`]);
}
