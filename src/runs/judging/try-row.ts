import { z } from "zod";
import { call, cast, column } from "@/core/expression/ast";
import { predictionDelivery } from "@/core/pipeline/deliveries";
import { formatNumber } from "@/core/format/numbers";
import { className, type Task } from "@/core/learn/task";
import { inputsToScore } from "@/core/plan/row-profile";
import { taskOf } from "@/core/plan/frame";
import { GIVEN, givenParameters, withGivenRow, type GivenParameter } from "@/core/plan/given";
import { featuresGiven } from "@/core/plan/score";
import { problem, ProblemError } from "@/core/problem";
import type { Question } from "@/core/questions/question";
import { rowsQuestion } from "@/core/questions/rows";
import { project, type Relation } from "@/core/relation/relation";
import type { CheckedPlan } from "@/core/plan/plan";
import { modelById, type ModelRow } from "@/store/models";
import type { Context } from "../context";
import { planOfVersion } from "../version-plan";
import { reasonsOfRow, type RowReasons } from "./judged-rows";

/** A field of the form in which one row is tried. */
export interface RowField extends GivenParameter {
  /** A value that there is, as text: of the first row that wants a prediction. Null: none, or missing there. */
  readonly example: string | null;
}

interface Opened {
  readonly model: ModelRow;
  readonly plan: CheckedPlan;
  readonly task: Task;
  readonly relation: Relation;
  readonly parameters: readonly GivenParameter[];
}

async function open(context: Context, id: number): Promise<Opened> {
  const model = await modelById(context.store.db, id);
  if (!model) throw new ProblemError(problem("unknown_model", "Model version not found."));
  const plan = await planOfVersion(context, model);
  const relation = featuresGiven(plan, model, GIVEN);
  const parameters = givenParameters(plan, relation);
  const unfit = parameters.find((parameter) => parameter.type === "other" || parameter.type === "sparse");
  if (unfit)
    throw new ProblemError(
      problem(
        "not_a_parameter",
        `"${unfit.name}" has a type that cannot be entered in a form.`,
        "Cast it to text or a number in an earlier step.",
      ),
    );
  return { model, plan, task: taskOf(plan, model.shape), relation, parameters };
}

/** The first row as texts, numbers without zeros at their ends. */
function exampleQuestion(
  input: Relation,
  parameters: readonly GivenParameter[],
): Question<Readonly<Record<string, string | null>> | undefined> {
  const first: Relation = { kind: "limit", input, order: [], rows: 1 };
  return {
    relation: project(
      first,
      parameters.map(({ name, type }) => {
        const value = column(name);
        return {
          name,
          expression: cast(type === "numeric" ? call("trim_scale", value) : value, "text"),
        };
      }),
    ),
    purpose: "an example of a row",
    read: (rows) => z.array(z.record(z.string(), z.string().nullable())).parse(rows)[0],
  };
}

/** What has to be told of a row for a version to predict it: columns as they are before the first step that learns. */
export async function rowFields(context: Context, id: number): Promise<readonly RowField[]> {
  const { plan, model, parameters } = await open(context, id);
  if (parameters.length === 0) return [];
  const names = parameters.map((parameter) => parameter.name);
  const runTime = (await context.now()).toISOString();
  const row = await context.warehouse.ask(
    exampleQuestion(inputsToScore(plan, model.learned, names), parameters),
    { runTime, milliseconds: 15_000 },
  );
  return parameters.map((parameter) => ({
    ...parameter,
    example: row?.[parameter.name] ?? null,
  }));
}

export interface TriedRow extends RowReasons {
  /** The prediction in words. */
  readonly says: string;
}

/**
 * Predicts one row by a version, with reasons. Values come as text; null and what is left out count as missing.
 * Problems: unknown_model, not_a_parameter, and what PostgreSQL says of a value that does not fit its type.
 */
export async function tryRow(
  context: Context,
  id: number,
  values: Readonly<Record<string, string | null>>,
): Promise<TriedRow> {
  const { plan, model, task, relation, parameters } = await open(context, id);
  const row = withGivenRow(relation, parameters, values);
  const [features] = await context.warehouse.ask(rowsQuestion(row, "features of a row"), {
    runTime: (await context.now()).toISOString(),
    milliseconds: 15_000,
  });
  if (!features)
    throw new ProblemError(
      problem(
        "row_left_out",
        "The steps of the pipeline drop this row, so it has no prediction.",
        "Check which step filters it.",
      ),
    );
  const found = reasonsOfRow(model, task, features);
  const threshold = predictionDelivery(plan.file.delivery)?.threshold ?? 0.5;
  if (found.prediction.some((value) => !Number.isFinite(value)))
    throw new ProblemError(
      problem(
        "row_unscored",
        "A required number is missing, so there is no prediction.",
        "Enter a value, or add a fill step and retrain.",
      ),
    );
  return { ...found, says: words(task, found.prediction, threshold) };
}

function words(task: Task, prediction: readonly number[], threshold: number): string {
  if (task.kind === "number") return formatNumber(prediction[0]!);
  if (task.kind === "binary")
    return `${prediction[0]! >= threshold ? "yes" : "no"}, with a probability of ${formatNumber(prediction[0]!)} (yes from ${threshold} on)`;
  const best = prediction.reduce((most, value, index) => (value > prediction[most]! ? index : most), 0);
  return `${className(task, best)}, with a probability of ${formatNumber(prediction[best]!)}`;
}
