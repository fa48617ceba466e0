import { bucketSchema, metricsSchema, type Bucket, type Metrics } from "@/core/evaluate/threshold";
import { bucketsSql, metricsSql } from "@/core/evaluate/scores-sql";
import { fitLogistic } from "@/core/learn/logistic";
import type { LogisticModel } from "@/core/learn/logistic-model";
import type { LearnedValues } from "@/core/plan/build";
import { profileRelation, readProfile } from "@/core/plan/contract";
import { baseRelation, failingCheck, frameRelation, learnRelations, levelsRelation, needsBase, numberColumns, repeatedKeys, sourcesOf, TARGET_COLUMN, type CategoryLevels, type FrameShape } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { PROBABILITY_COLUMN, scoredHoldoutRelation } from "@/core/plan/score";
import type { Candidate } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { printRelation } from "@/core/relation/print";
import type { Relation, TableReference } from "@/core/relation/relation";
import { quoteTable } from "@/core/sql/quote";
import { CORE_VERSION } from "@/core/version";
import type { LearnAnswer } from "@/core/steps/step";
import { addModel } from "@/store/models";
import type { RunEnd } from "@/store/runs";
import { tableFacts } from "@/warehouse/facts";
import { WarehouseFrame } from "@/warehouse/frame-questions";
import type { WarehouseSession } from "@/warehouse/warehouse";
import { checkText } from "./check-file";
import type { Context } from "./context";
import type { RunRecorder } from "./recorder";
import { checkRequirements } from "./requirements";
import { dropScratch, holdoutTable, scratchTable, sweep } from "./scratch";

const thousands = (value: number): string => value.toLocaleString("en-US");

interface Workshop {
  readonly context: Context;
  readonly recorder: RunRecorder;
  readonly session: WarehouseSession;
  readonly plan: CheckedPlan;
  readonly print: (relation: Relation) => string;
}

/**
 * A training run: prepares rows, learns what the steps need, builds the frame, trains, scores the holdout,
 * judges it and keeps the version. All rows stay in the warehouse; its tables are dropped whatever happens.
 */
export async function trainRun(context: Context, recorder: RunRecorder, session: WarehouseSession, text: string, pipelineVersion: { readonly id: number; readonly pipelineId: number }): Promise<RunEnd> {
  const { run } = recorder;
  await sweep(session, context.warehouse, run.id);
  try {
    const plan = await recorder.doing("check the pipeline", async () => {
      const checked = unwrap(await checkText(text, context.warehouse));
      await recorder.warn(checked.warnings);
      return { value: checked, detail: `${checked.main.steps.length} steps, ${checked.features.length} features` };
    });
    const printed = { runTime: run.runTime.toISOString() };
    const shop: Workshop = { context, recorder, session, plan, print: (relation) => printRelation(relation, printed) };
    refuseOtherTargets(plan);
    const candidate = pickCandidate(plan, run.options.candidate);
    await checkRequirements(shop);
    const fingerprints = await fingerprint(shop);
    const base = await buildBase(shop);
    const learned = base ? await learnSteps(shop, base) : {};
    await checkRequirements(shop, learned, true);
    const shape: FrameShape = { numbers: numberColumns(plan, learned), categories: base ? await learnLevels(shop, learned, base, candidate) : [] };
    const frame = await buildFrame(shop, shape, learned, base);
    await checkRows(shop, learned);
    const model = await fit(shop, frame, shape, candidate);
    const kept = await scoreHoldout(shop, shape, model, frame);
    const judged = await judge(shop, kept);
    const profile = await recorder.doing("note what the training rows look like", async () => {
      const [row] = await session.run(shop.print(profileRelation(plan, learned, model, base ? { base } : { condition: plan.train })), "shares of missing and known values");
      return { value: readProfile(row ?? {}) };
    });
    const version = await recorder.doing("keep the version", async () => {
      const made = await addModel(context.store.db, {
        pipelineId: pipelineVersion.pipelineId, pipelineVersionId: pipelineVersion.id, runId: run.id, candidate: candidate.name, planHash: plan.hash, codeVersion: CORE_VERSION, runTime: run.runTime,
        learned, shape, model, metrics: judged.metrics, buckets: judged.buckets,
        data: { sources: sourcesOf(plan), fingerprints, profile, trainingRows: model.fit.rows, holdoutRows: judged.metrics.rows ?? 0, holdoutTable: kept.table },
      });
      return { value: made, detail: `version ${made.number}` };
    });
    const auc = judged.metrics.auc === null ? "no AUC (the holdout has one class)" : `holdout AUC ${judged.metrics.auc.toFixed(4)}`;
    await recorder.say("info", `No row left the warehouse: ${thousands(model.fit.numbersOut)} numbers came out, all of them sums.`);
    return { state: "done", rows: model.fit.rows, modelId: version.id, outcome: `version ${version.number}, ${auc}` };
  } finally {
    await dropScratch(session, context.warehouse, run.id).catch(() => undefined);
  }
}

/** The learners of this version answer yes/no questions; other targets can be prepared, but not trained. */
function refuseOtherTargets(plan: CheckedPlan): void {
  const { kind } = plan.file.roles.target;
  if (kind !== "binary") throw new ProblemError(problem("target_unsupported", `Targets of kind "${kind}" can be prepared, but not trained yet.`, "Use kind: binary, with a yes/no column or a value that counts as positive."));
}

function pickCandidate(plan: CheckedPlan, wanted: string | undefined): Candidate {
  const found = wanted === undefined ? plan.file.candidates[0] : plan.file.candidates.find((each) => each.name === wanted);
  if (!found) throw new ProblemError(problem("unknown_candidate", `There is no candidate "${wanted}".`, `There is: ${plan.file.candidates.map((each) => each.name).join(", ")}.`));
  return found;
}

async function fingerprint(shop: Workshop): Promise<Record<string, { rows: number; changedAt: string | null; marker: string }>> {
  return shop.recorder.doing("note what is read", async () => {
    const found: Record<string, { rows: number; changedAt: string | null; marker: string }> = {};
    for (const source of sourcesOf(shop.plan)) found[writeTableName(source)] = await tableFacts(shop.context.warehouse, source, (sql, values) => shop.session.run(sql, "rows and last change", values));
    return { value: found, detail: Object.entries(found).map(([name, facts]) => `${name} ${thousands(facts.rows)} rows`).join(", ") };
  });
}

async function buildBase(shop: Workshop): Promise<TableReference | undefined> {
  const { plan, recorder, session } = shop;
  if (!needsBase(plan)) return undefined;
  const base = scratchTable(shop.context.warehouse, "base", recorder.run.id, recorder.run.attempt);
  return recorder.doing("prepare rows and split off the holdout", async () => {
    const rows = await session.affected(`CREATE UNLOGGED TABLE ${quoteTable(base)} AS\n${shop.print(baseRelation(plan))}`, "prepared rows");
    await session.run(`ANALYZE ${quoteTable(base)}`, "count values for the planner");
    return { value: base, rows };
  });
}

async function learnSteps(shop: Workshop, base: TableReference): Promise<LearnedValues> {
  const { plan, recorder, session } = shop;
  const learned: Record<string, unknown> = {};
  for (const [position, { step }] of plan.main.steps.entries()) {
    const questions = learnRelations(plan, position, learned, base);
    if (questions.length === 0) continue;
    await recorder.doing(`learn: ${step.name}`, async () => {
      const answers: LearnAnswer[] = [];
      for (const question of questions) answers.push(await session.run(shop.print(question), `what "${step.name}" learns from training rows`));
      learned[String(position)] = step.learned(answers);
      return { value: undefined };
    });
  }
  return learned;
}

async function learnLevels(shop: Workshop, learned: LearnedValues, base: TableReference, candidate: Candidate): Promise<readonly CategoryLevels[]> {
  const { plan, recorder, session } = shop;
  const names = plan.features.filter((feature) => feature.kind === "category").map((feature) => feature.name);
  if (names.length === 0) return [];
  return recorder.doing("number the categories", async () => {
    const categories: CategoryLevels[] = [];
    for (const name of names) {
      const rows = await session.run(`${shop.print(levelsRelation(plan, name, learned, base))} LIMIT ${candidate.settings.most_levels + 1}`, `categories of ${name}`);
      if (rows.length > candidate.settings.most_levels) {
        throw new ProblemError(problem("too_many_levels", `"${name}" has more than ${candidate.settings.most_levels} different texts in the training rows.`, "Exclude it if it is an identifier or free text; or raise most_levels in the candidate's settings."));
      }
      const levels = rows.map((row) => (row["level"] ?? null) as string | null);
      const texts = levels.filter((level) => level !== null).sort();
      categories.push({ column: name, levels: levels.includes(null) ? [...texts, null] : texts });
    }
    return { value: categories, detail: categories.map((each) => `${each.column}: ${each.levels.length}`).join(", ") };
  });
}

async function buildFrame(shop: Workshop, shape: FrameShape, learned: LearnedValues, base: TableReference | undefined): Promise<TableReference> {
  const { plan, recorder, session } = shop;
  if (shape.numbers.length + shape.categories.length > MOST_FRAME_COLUMNS) {
    throw new ProblemError(problem("too_many_columns", `The frame would have ${shape.numbers.length + shape.categories.length} features; a PostgreSQL row holds about ${MOST_FRAME_COLUMNS} numbers.`, "Leave category columns unencoded: the learner codes them as one column each."));
  }
  const frame = scratchTable(shop.context.warehouse, "frame", recorder.run.id, recorder.run.attempt);
  await recorder.doing("build the training frame", async () => {
    const rows = await session.affected(`CREATE UNLOGGED TABLE ${quoteTable(frame)} AS\n${shop.print(frameRelation(plan, shape, learned, base))}`, "training frame");
    return { value: undefined, rows, detail: `${shape.numbers.length} numbers, ${shape.categories.length} categories` };
  });
  await recorder.doing("check that the key is unique", async () => {
    const rows = await session.run(`SELECT * FROM (${shop.print(repeatedKeys(plan, frame))}) AS "repeated" LIMIT 5`, "keys that repeat or are missing");
    if (rows.length > 0) {
      const examples = rows.map((row) => `${plan.file.roles.key.map((name) => String(row[name] ?? "(missing)")).join(", ")} (${String(row["ravlen_rows"])} rows)`).join("; ");
      throw new ProblemError(problem("key_repeats", `The key ${plan.file.roles.key.join(", ")} is not unique among the rows to train on, for example ${examples}.`, "Remove duplicates before this point, or choose a key that names one row."));
    }
    return { value: undefined };
  });
  return frame;
}

/** A row of doubles must fit into a page of 8 kB. */
const MOST_FRAME_COLUMNS = 950;

async function checkRows(shop: Workshop, learned: LearnedValues): Promise<void> {
  const { plan, recorder, session } = shop;
  for (const check of plan.file.checks) {
    await recorder.doing(`check: ${check.name}`, async () => {
      const [row] = await session.run(`SELECT count(*) AS failing FROM (${shop.print(failingCheck(plan, check.expect, learned, plan.train))}) AS "failing"`, check.expect);
      const failing = Number(row?.["failing"] ?? 0);
      const found = problem("check_failed", `${thousands(failing)} rows do not meet the check "${check.name}": ${check.expect}.`, "Look at those rows, or correct the check.");
      if (failing > 0 && check.otherwise === "stop") throw new ProblemError(found);
      if (failing > 0) await recorder.warn([found]);
      return { value: undefined, rows: failing, detail: failing === 0 ? "every row meets it" : `${thousands(failing)} rows do not` };
    });
  }
}

async function fit(shop: Workshop, frame: TableReference, shape: FrameShape, candidate: Candidate): Promise<LogisticModel> {
  const { recorder, session } = shop;
  return recorder.doing("train in the warehouse", async () => {
    const questions = new WarehouseFrame(session, quoteTable(frame), quoteTable(scratchTable(shop.context.warehouse, "sample", recorder.run.id, recorder.run.attempt)), shape.numbers, shape.categories);
    const fitted = unwrap(await fitLogistic(questions, { settings: candidate.settings, categories: shape.categories, onPass: (pass) => recorder.pass(pass) }));
    await recorder.warn(fitted.warnings);
    const { model } = fitted;
    const detail = `${model.fit.passes.length} passes, mean loss ${model.fit.meanLoss.toPrecision(6)}, ${thousands(model.fit.numbersOut)} numbers out`;
    return { value: model, rows: model.fit.rows, detail };
  });
}

async function scoreHoldout(shop: Workshop, shape: FrameShape, model: LogisticModel, frame: TableReference): Promise<TableReference> {
  const { plan, recorder, session, context } = shop;
  const kept = holdoutTable(context.warehouse, recorder.run.id);
  return recorder.doing("score the holdout", async () => {
    const used: FrameShape = { numbers: shape.numbers.filter((name) => model.numbers.some((each) => each.column === name)), categories: shape.categories };
    await session.run(`DROP TABLE IF EXISTS ${quoteTable(kept)}`, "remove an earlier attempt's holdout");
    const rows = await session.affected(`CREATE TABLE ${quoteTable(kept)} AS\n${shop.print(scoredHoldoutRelation(plan, used, model, frame))}`, "scored holdout");
    if (rows === 0) throw new ProblemError(problem("empty_holdout", "The holdout has no rows, so the model cannot be judged.", "Widen holdout.share, or look at rows.train."));
    const [row] = await session.run(`SELECT count(*) AS unscored FROM ${quoteTable(kept)} WHERE ${PROBABILITY_COLUMN} IS NULL`, "rows without a score");
    const unscored = Number(row?.["unscored"] ?? 0);
    if (unscored > 0) throw new ProblemError(problem("feature_missing", `${thousands(unscored)} holdout rows cannot be scored, because a number the model needs is missing there.`, "Add a fill step for the columns with gaps."));
    return { value: kept, rows };
  });
}

async function judge(shop: Workshop, kept: TableReference): Promise<{ readonly metrics: Metrics; readonly buckets: readonly Bucket[] }> {
  const { recorder, session } = shop;
  return recorder.doing("judge on the holdout", async () => {
    const scored = { table: quoteTable(kept), score: PROBABILITY_COLUMN, answer: TARGET_COLUMN };
    const [row] = await session.run(metricsSql(scored), "AUC, average precision, log loss, Brier");
    const metrics = metricsSchema.parse(row);
    const buckets = (await session.run(bucketsSql(scored), "counts at 1,001 thresholds")).map((each) => bucketSchema.parse(each));
    if (metrics.auc === null) await recorder.say("warning", "The holdout has one class only: there is no AUC, and the figures say little. Use a larger holdout.");
    return { value: { metrics, buckets }, rows: metrics.rows ?? 0, detail: metrics.auc === null ? "one class only" : `AUC ${metrics.auc.toFixed(4)}, Brier ${metrics.brier?.toFixed(4)}` };
  });
}
