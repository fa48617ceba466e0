import { predictionDelivery } from "@/core/pipeline/deliveries";
import type { CheckedPlan } from "@/core/plan/plan";
import { GIVEN, givenParameters, withGiven } from "@/core/plan/given";
import { predictGiven, predictionColumns, scoreRelation, type AnsweringVersion } from "@/core/plan/score";
import { taskOf } from "@/core/plan/frame";
import { fitsStatement } from "@/core/learn/scoring";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { prune } from "@/core/relation/prune";
import { printRelation } from "@/core/relation/print";
import { outputColumns } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "@/core/sql/quote";
import { modelById, type ModelRow } from "@/store/models";
import { newestVersion, pipelineById, versionById } from "@/store/pipelines";
import type { WarehouseSession } from "@/warehouse/warehouse";
import type { Context } from "./context";
import { planOfVersion } from "./version-plan";
import { parseFile } from "./parse-file";

/** How a function's comment begins, so that only functions of ours are ever replaced or dropped. */
export const MARK = "Ravlen pipeline";

/** What a function of a pipeline is called: predict_NAME for the version in service, predict_NAME_v3 for a version. The one over all rows ends in _rows. */
export function functionName(pipeline: string, version?: number): string {
  const name = pipeline.toLowerCase().replaceAll(/[^\p{L}\p{N}_]+/gu, "_");
  return `predict_${name.slice(0, 40)}${version === undefined ? "" : `_v${version}`}`;
}

interface Signature {
  readonly name: string;
  readonly parameters: readonly { readonly name: string; readonly type: string }[];
  readonly returns: readonly { readonly name: string; readonly type: string }[];
  readonly body: string;
  readonly comment: string;
}

function rowFunction(plan: CheckedPlan, version: AnsweringVersion, name: string, about: string): Signature {
  const predicted = predictGiven(plan, version, GIVEN);
  const relation = prune(predicted, new Set(outputColumns(predicted)));
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
  // The logical time of a question is now.
  const inner = printRelation(relation, {
    runTime: new Date(0).toISOString(),
    runTimeSql: "statement_timestamp()",
  });
  return {
    name,
    parameters,
    returns: predictionColumns(taskOf(plan, version.shape)),
    body: withGiven(parameters, inner),
    comment: `${about}: the prediction for one row, given as it is before "${plan.main.steps[plan.learnsFrom]?.step.name ?? "the model"}".`,
  };
}

function rowsFunction(plan: CheckedPlan, version: AnsweringVersion, name: string, about: string): Signature {
  const relation = scoreRelation(plan, { ...version, columns: [], stamps: [] });
  const keys = plan.file.roles.key.map((key) => ({
    name: key,
    type: plan.main.output.get(key)?.type ?? "text",
  }));
  return {
    name: `${name}_rows`,
    parameters: [],
    returns: [...keys, ...predictionColumns(taskOf(plan, version.shape))],
    body: printRelation(relation, {
      runTime: new Date(0).toISOString(),
      runTimeSql: "statement_timestamp()",
    }),
    comment: `${about}: predictions for all rows to score now, as a delivery would write them.`,
  };
}

/** Drops the functions of ours that have a name, whatever their parameters. A function of somebody else is left alone; where its name is `needed`, that is a problem. */
async function dropFunctions(
  session: WarehouseSession,
  schema: string,
  names: readonly string[],
  pipeline: string,
  needed: boolean,
): Promise<void> {
  const found = await session.run(
    "SELECT p.oid::regprocedure::text AS signature, p.proname AS name, obj_description(p.oid, 'pg_proc') AS comment FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname = $1 AND p.proname = ANY ($2)",
    "functions of the pipeline",
    [schema, [...names]],
  );
  for (const item of found) {
    const ours = String(item["comment"] ?? "").startsWith(`${MARK} ${pipeline},`);
    if (!ours && !needed) continue;
    if (!ours)
      throw new ProblemError(
        problem(
          "name_taken",
          `A function ${schema}.${String(item["name"])} already exists and does not belong to this pipeline.`,
          "Rename the function or the pipeline. Nothing was changed.",
        ),
      );
    // Written by PostgreSQL itself, quoted where it has to be.
    await session.run(`DROP FUNCTION ${String(item["signature"])}`, "drop a function");
  }
}

async function createFunction(
  session: WarehouseSession,
  schema: string,
  { name, parameters, returns, body, comment }: Signature,
  roles: readonly string[],
): Promise<void> {
  const place = quoteTable({ schema, table: name });
  const taken = parameters
    .map((parameter) => `${quoteIdentifier(parameter.name)} ${parameter.type}`)
    .join(", ");
  const signature = `${place}(${parameters.map((parameter) => parameter.type).join(", ")})`;
  // A parameter and a result may have the same name only when they are told apart; the results are named by the table.
  const clash = parameters.some((parameter) => returns.some((other) => other.name === parameter.name));
  const result = `TABLE(${returns.map((item) => `${quoteIdentifier(clash ? `predicted_${item.name}` : item.name)} ${item.type}`).join(", ")})`;
  // The function may read what it must, whoever asks; asking is granted by name.
  await session.run(
    `CREATE FUNCTION ${place}(${taken}) RETURNS ${result} LANGUAGE sql STABLE SECURITY DEFINER SET search_path = pg_catalog, pg_temp SET jit = off AS ${quoteText(body)}`,
    `make the function ${name}`,
  );
  await session.run(`COMMENT ON FUNCTION ${signature} IS ${quoteText(comment)}`, "set its comment");
  await session.run(`REVOKE ALL ON FUNCTION ${signature} FROM PUBLIC`, "revoke access of PUBLIC");
  for (const role of roles)
    await session.run(
      `GRANT EXECUTE ON FUNCTION ${signature} TO ${quoteIdentifier(role)}`,
      `${role} may call`,
    );
}

/**
 * Lets roles reach the schema of the functions; without that, EXECUTE on them is worth nothing.
 * Problems: schema_not_granted, when the writer may not grant it.
 */
async function grantUsage(
  session: WarehouseSession,
  schema: string,
  roles: readonly string[],
): Promise<void> {
  const barred = await session.run(
    "SELECT rolname AS role, EXISTS (SELECT FROM pg_namespace WHERE nspname = $1 AND pg_has_role(nspowner, 'USAGE')) OR has_schema_privilege($1, 'USAGE WITH GRANT OPTION') AS grantable FROM pg_roles WHERE rolname = ANY ($2) AND NOT has_schema_privilege(oid, $1, 'USAGE')",
    "roles that cannot reach the functions' schema",
    [schema, [...roles]],
  );
  for (const { role, grantable } of barred) {
    if (grantable !== true)
      throw new ProblemError(
        problem(
          "schema_not_granted",
          `"${String(role)}" may not use the schema "${schema}", and Ravlen's writer may not grant it.`,
          `Have its owner run GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${quoteIdentifier(String(role))}; and publish again.`,
        ),
      );
    await session.run(
      `GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${quoteIdentifier(String(role))}`,
      `${String(role)} may use the schema`,
    );
  }
}

/** What is published of a version: the newest file says so when only deliveries and functions have changed in it, else its own. */
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
 * Makes the functions of a version that has been put in service: one per version, and those whose names follow the service.
 * Drops them when the file asks for none. All or nothing, in one transaction.
 * Problems: too_large, name_taken, not_a_parameter, schema_not_granted.
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
  const schema = context.warehouse.config.outputSchema;
  const session = await context.warehouse.session();
  try {
    const about = `${MARK} ${pipeline}, version ${model.number}`;
    const names = [functionName(pipeline, model.number), functionName(pipeline)];
    await session.transaction(async () => {
      await dropFunctions(
        session,
        schema,
        names.flatMap((name) => [name, `${name}_rows`]),
        pipeline,
        true,
      );
      for (const name of names)
        for (const make of [rowFunction, rowsFunction])
          await createFunction(session, schema, make(plan, version, name, about), roles);
      await grantUsage(session, schema, roles);
    });
    return names.flatMap((name) => [name, `${name}_rows`]);
  } finally {
    session.release();
  }
}

/** Drops all functions of a pipeline: those that follow the service, and those of versions. */
export async function withdrawAllFunctions(context: Context, pipeline: string): Promise<void> {
  const { outputSchema } = context.warehouse.config;
  const session = await context.warehouse.session();
  try {
    await session.transaction(async () => {
      const own = await session.run(
        "SELECT DISTINCT p.proname AS name FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname = $1 AND starts_with(obj_description(p.oid, 'pg_proc'), $2)",
        "all functions of the pipeline",
        [outputSchema, `${MARK} ${pipeline},`],
      );
      const names = own.map((row) => String(row["name"]));
      await dropFunctions(session, outputSchema, names, pipeline, false);
    });
  } finally {
    session.release();
  }
}

/** Drops functions of a pipeline: those that follow the service, or those of one version. */
export async function withdrawFunctions(context: Context, pipeline: string, version?: number): Promise<void> {
  const session = await context.warehouse.session();
  try {
    const name = functionName(pipeline, version);
    await session.transaction(() =>
      dropFunctions(session, context.warehouse.config.outputSchema, [name, `${name}_rows`], pipeline, false),
    );
  } finally {
    session.release();
  }
}
