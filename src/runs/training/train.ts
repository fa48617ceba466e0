import { describeLeaving } from "@/core/evaluate/leaving";
import { formatCount, formatDuration, formatShare } from "@/core/format/numbers";
import type { Judgement } from "@/core/evaluate/judgement";
import { featureInputs, profileRelation, readProfile } from "@/core/plan/row-profile";
import { keptOriginals } from "@/core/plan/score";
import { sourcesOf, taskOf, type BaseTable } from "@/core/plan/frame";
import type { Candidate } from "@/core/pipeline/schema";
import { withStepChoices } from "@/core/pipeline/edit/step-choices";
import { fitCount, type Choice } from "@/core/learn/search/space";
import type { Engine } from "@/core/learn/task";
import { columnsRead } from "@/core/learn/model-kinds";
import { modelSchema } from "@/core/learn/model";
import { resultFindings } from "@/core/guard/findings";
import { ProblemError, unwrap } from "@/core/problem";
import { rowsQuestion } from "@/core/questions/rows";
import { CORE_VERSION } from "@/core/version";
import { addModel, recordLeaving } from "@/store/models";
import { forgetResults } from "@/store/run-results";
import type { RunEnd } from "@/store/runs";
import type { WarehouseSession } from "@/warehouse/port/session";
import { checkText } from "../check-file";
import type { Context } from "../context";
import type { RunRecorder } from "../recorder";
import { checkRequirements } from "../requirements";
import { dropScratch, KEPT, sweep } from "../scratch";
import { challengeChampion } from "./challenge";
import { chooseEngine, openFrame } from "./engine";
import { fitAndMeasure, type FitResult } from "./fit";
import { FoldFrames } from "./folds";
import { guardBefore } from "./guard";
import { describeFigures } from "./judge";
import { judgeParts } from "./judge-parts";
import {
  buildBase,
  buildFrame,
  checkKey,
  checkParts,
  checkRows,
  fingerprint,
  learnSteps,
  shapeOf,
  type PreparedFrame,
} from "./prepare";
import { countLeftOut } from "./left-out";
import { holdsOf, onceKept } from "./kept";
import { chosenCandidate, searchSettings, type SearchResult } from "./search";
import { noteSpreads } from "../drift";
import { openWorkshop, pickCandidate, trialPlan, type Workshop } from "./workshop";

/**
 * A training run: prepares rows, learns what the steps need, looks for answers in the data, searches settings when the candidate
 * says so, trains, judges inside folds and on the holdout, explains, and keeps the version. Scratch tables are dropped whatever happens.
 */
export async function trainRun(
  context: Context,
  recorder: RunRecorder,
  session: WarehouseSession,
  text: string,
  pipelineVersion: { readonly id: number; readonly pipelineId: number },
): Promise<RunEnd> {
  const { run } = recorder;
  const { options } = run;
  await sweep(session, context, run.id);
  // A failure that has nothing to do with the rows leaves them there: the next attempt goes on from them.
  let keepSealed = false;
  let kept = false;
  try {
    const plan = await recorder.doing("check the pipeline", async () => {
      const checked = unwrap(await checkText(text, context.warehouse));
      await recorder.warn(checked.warnings);
      return {
        value: trialPlan(checked, options),
        detail: `${formatCount(checked.main.steps.length, "step")}, ${formatCount(checked.features.length, "feature")}`,
      };
    });
    const opened = openWorkshop(context, recorder, session, plan);
    const candidate = pickCandidate(plan, options.candidate);
    const share = options.share ?? 1;
    await checkRequirements(opened);
    const fingerprints = await fingerprint(opened);
    const leftOut = await countLeftOut(opened);
    const first: Workshop = { ...opened, ...holdsOf(fingerprints) };
    const folded = plan.file.folds !== undefined || candidate.search !== undefined;
    const found = candidate.search ? await search(first, candidate, text) : undefined;
    const { shop, chosen } = found
      ? {
          shop: await variantOf(first, text, found.choices),
          chosen: chosenCandidate(candidate, found.choices),
        }
      : { shop: first, chosen: candidate };
    const { base, prepared } = await prepare(shop, chosen, folded);
    await checkRows(shop, prepared.learned);
    await checkParts(shop, prepared.learned, { base, folds: base !== undefined && folded }, false);
    const warned = await guardBefore(shop, prepared);
    const engine = await chooseEngine(shop, chosen, prepared);
    const fitted = await fit(shop, chosen, engine, prepared);
    const { model } = fitted;
    const task = taskOf(shop.plan, prepared.shape);
    const { judgement: judged, tables } = await judgeParts(shop, {
      model,
      usual: fitted.usual,
      prepared,
      base,
      frames: base && folded ? new FoldFrames(shop, base) : undefined,
      candidate: chosen,
      engine,
    });
    const judgement: Judgement = { ...judged, findings: [...warned] };
    judgement.findings.push(
      ...resultFindings(task.kind, judgement).filter(
        (resultFinding) =>
          !judgement.findings.some(
            (other) => other.code === resultFinding.code && other.feature === resultFinding.feature,
          ),
      ),
    );
    const profile = await recorder.doing("record training distributions", async () => {
      const shares = profileRelation(
        shop.plan,
        prepared.learned,
        { shape: prepared.shape, model },
        base ? { base } : { condition: shop.plan.train },
      );
      const [row] = await session.ask(rowsQuestion(shares, "shares of missing and known values"));
      return {
        value: {
          ...readProfile(row ?? {}, featureInputs(shop.plan)),
          spreads: await noteSpreads(shop, prepared, base, tables.holdout ?? tables.trained, task),
        },
      };
    });
    const { spreads, ...shares } = profile;
    const version = await recorder.doing("save the version", async () => {
      const made = await addModel(context.store.db, {
        pipelineId: pipelineVersion.pipelineId,
        pipelineVersionId: pipelineVersion.id,
        runId: run.id,
        candidate: candidate.name,
        planHash: plan.hash,
        codeVersion: CORE_VERSION,
        runTime: run.runTime,
        learned: prepared.learned,
        shape: prepared.shape,
        model,
        metrics: judged.figures,
        buckets: [],
        judgement,
        engine,
        fitSeconds: fitted.seconds,
        data: {
          sources: sourcesOf(shop.plan),
          fingerprints,
          profile: shares,
          spreads,
          trainingRows: model.fit.rows,
          ...(leftOut === undefined ? {} : { leftOut }),
          holdoutRows: judged.rows,
          ...(tables.holdout ? { holdoutTable: tables.holdout.table } : {}),
          originals: keptOriginals(shop.plan, prepared.shape).map(({ column, copy }) => ({ column, copy })),
          trainedTable: tables.trained.table,
          ...(tables.blind ? { blindTable: tables.blind.table } : {}),
          algorithm: chosen.algorithm,
          settings: chosen.settings,
          memory: fitted.memory,
          ...(options.without && options.without.length > 0 ? { without: options.without } : {}),
          ...(share < 1 ? { share } : {}),
          ...(found ? { search: found } : {}),
        },
      });
      kept = true;
      return { value: made, detail: `version ${made.number}` };
    });
    await forgetResults(context.store.db, run.id);
    if (share === 1) await challengeChampion(shop, version, tables.holdout);
    await recordLeaving(context.store.db, version, session.leaving);
    const judgedWith = { weight: shop.plan.file.roles.weight !== undefined, group: judged.byGroup };
    await recorder.say("info", describeLeaving(session.leaving, engine, model.fit.numbersOut, judgedWith));
    if (share < 1)
      await recorder.say(
        "info",
        `Fitting took ${formatDuration(1000 * fitted.seconds)} on ${formatShare(share)} of the rows; all rows take about ${formatDuration((1000 * fitted.seconds) / share)}.`,
      );
    return {
      state: "done",
      rows: model.fit.rows,
      modelId: version.id,
      outcome: `version ${version.number}, ${describeFigures(task.kind, judged.figures, plan.file.holdout.by)}`,
    };
  } catch (error) {
    keepSealed = !(error instanceof ProblemError) && !recorder.cancelled && !recorder.givenUp;
    throw error;
  } finally {
    await dropScratch(session, context, run.id, {
      keepSealed,
      judged: !kept && !keepSealed,
    }).catch(() => undefined);
  }
}

/** Base, what steps learn, and the frame of all training rows. */
async function prepare(
  shop: Workshop,
  candidate: Candidate,
  folded: boolean,
): Promise<{ readonly base: BaseTable | undefined; readonly prepared: PreparedFrame }> {
  const { recorder } = shop;
  const base = await buildBase(shop, folded);
  const learned = base ? await learnSteps(shop, base) : {};
  await checkRequirements(shop, learned, true);
  const shape = await recorder.doing("index categories and classes", async () => {
    const value = await shapeOf(shop, candidate, learned, base);
    return {
      value,
      detail: [
        ...(value.classes ? [`${value.classes.length} classes`] : []),
        ...value.categories.map((category) => `${category.column}: ${category.levels.length}`),
      ].join(", "),
    };
  });
  const prepared = await recorder.doing("build the training frame", async () => {
    const value = await buildFrame(shop, shape, learned, base, folded);
    return {
      value,
      rows: value.rows,
      detail: value.kept ? KEPT : `${shape.numbers.length} numbers, ${shape.categories.length} categories`,
    };
  });
  await checkKey(shop, prepared.frame);
  return { base, prepared };
}

/** Trains on all training rows, with every pass recorded. */
async function fit(shop: Workshop, candidate: Candidate, engine: Engine, prepared: PreparedFrame) {
  const { recorder } = shop;
  return recorder.doing(
    engine === "warehouse" ? "train in the warehouse" : "train on streamed rows",
    async () => {
      const { value: found, kept } = await onceKept(shop, "fit", [candidate, engine, prepared.shape], () =>
        fitNow(shop, candidate, engine, prepared),
      );
      // What comes back from the store is data from outside, as a version's model is.
      const value = kept ? { ...found, model: modelSchema.parse(found.model) } : found;
      await recorder.warn(value.warnings);
      const { model, seconds } = value;
      const read = columnsRead(model);
      return {
        value,
        rows: model.fit.rows,
        detail: `${read.numbers.size + read.categories.size} columns used, ${kept ? KEPT : formatDuration(1000 * seconds)}`,
      };
    },
  );
}

/** Trains, and says what the usual answer is, for figures of always giving that. */
async function fitNow(
  shop: Workshop,
  candidate: Candidate,
  engine: Engine,
  prepared: PreparedFrame,
): Promise<FitResult & { readonly usual: readonly number[] }> {
  const opened = await openFrame(shop, engine, prepared, { folded: false });
  try {
    const summary = await opened.ask.summary();
    const result = await fitAndMeasure(shop, opened.ask, candidate, prepared.shape, (pass) =>
      shop.recorder.pass(pass),
    );
    const usual =
      opened.ask.task.kind === "classes"
        ? summary.classes.map((oneClass) => oneClass.weight / summary.weight)
        : [summary.target.mean];
    return { ...result, usual };
  } finally {
    await opened.close();
  }
}

/** The workshop for a file in which steps have other settings. */
async function variantOf(shop: Workshop, text: string, choices: readonly Choice[]): Promise<Workshop> {
  if (choices.every((choice) => choice.step === undefined)) return shop;
  const plan = unwrap(
    await checkText(unwrap(withStepChoices(text, shop.plan, choices)), shop.context.warehouse),
  );
  return openWorkshop(shop.context, shop.recorder, shop.session, trialPlan(plan, shop.recorder.run.options));
}

/** Searches settings inside folds. Frames are kept as long as the settings of steps stay the same. */
async function search(shop: Workshop, candidate: Candidate, text: string): Promise<SearchResult> {
  const wanted = candidate.search!;
  const { trials, folds, fits } = fitCount(candidate, shop.plan.file);
  await shop.recorder.say(
    "info",
    `The search tries up to ${trials} combinations in ${folds} folds: ${fits} fits in total, the last one on all training rows.`,
  );
  const first = await buildBase(shop, true);
  await checkParts(shop, await learnSteps(shop, first!), { base: first, folds: true }, true);
  let current = { key: "[]", shop, frames: new FoldFrames(shop, first!) };
  const open = async (choices: readonly Choice[]) => {
    const key = JSON.stringify(choices.filter((choice) => choice.step !== undefined));
    if (current.key === key) return current;
    const variant = await variantOf(shop, text, choices);
    const base = await buildBase(variant, true);
    current = { key, shop: variant, frames: new FoldFrames(variant, base!) };
    return current;
  };
  return searchSettings(shop, candidate, wanted, open);
}
