import { judgeChallenge, type Challenge } from "@/core/evaluate/challenge";
import { METRICS, metricsFor, type MetricName } from "@/core/evaluate/metrics";
import { outputsOf } from "@/core/learn/task";
import { taskOf } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { outputNames } from "@/core/plan/score";
import { HOLDOUT_PART, judgingTableOf, wholeGroup } from "@/core/plan/split";
import { problem, ProblemError } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { modelById, recordChallenge, type ModelRow } from "@/store/models";
import { clearAlert, raiseAlert } from "@/store/alerts";
import { pipelineById, type PipelineRow } from "@/store/pipelines";
import { errorText } from "../failure";
import { compareVersions, type JudgedRows } from "../judging/compare";
import type { RunRecorder } from "../recorder";
import { putInService, undecidedMatter } from "../service";
import { planOfVersion } from "../version-plan";
import { scoreInto } from "./judge";
import { openWorkshop, type Workshop } from "./workshop";

/** The metric by which a new version is held against the one in service. */
function challengeMetric({ file }: CheckedPlan): MetricName {
  const possible = metricsFor(file.roles.target.kind);
  const wished = [file.retraining?.metric, file.brief?.success?.metric].find(
    (text) => text !== undefined && possible.includes(text),
  );
  return wished ?? possible[0]!;
}

/**
 * Asks the version in service about the holdout rows of a new one, as far as they are held out from both, and compares.
 * The rows are those of now, prepared as each version prepares them.
 */
async function compareWithChampion(
  shop: Workshop,
  challenger: ModelRow,
  champion: ModelRow,
  holdout: TableReference | undefined,
): Promise<Omit<Challenge, "rule" | "promoted" | "because">> {
  const { plan, context, recorder, session } = shop;
  if (!holdout)
    throw new ProblemError(
      problem("not_judged", "It was trained on all rows and not evaluated.", "Set a holdout and retrain."),
    );
  const olds = await planOfVersion(context, champion, { purpose: "training" });
  const old = openWorkshop(context, recorder, session, olds);
  const said = shop.scratch("outputs", "champion");
  const { model, shape, learned } = champion;
  await scoreInto(old, said, { model, shape, learned, rows: { base: undefined }, part: HOLDOUT_PART });
  try {
    const task = taskOf(plan, challenger.shape);
    const rows = (place: TableReference, of: typeof task, by: CheckedPlan): JudgedRows => ({
      task: of,
      origin: judgingTableOf(by.file),
      key: plan.file.roles.key,
      group: wholeGroup(plan.file),
      weight: plan.file.roles.weight,
      place,
      outputs: outputNames(of),
    });
    const found = await compareVersions(
      context.warehouse,
      rows(holdout, task, plan),
      rows(said, taskOf(olds, champion.shape), olds),
    );
    // Both predictions, the answer, and the places of group and weight.
    session.leave({ judged: found.rows, values: found.rows * (2 * outputsOf(task) + 3) });
    const metric = challengeMetric(plan);
    const [challengers, champions] = [found.first[metric], found.second[metric]];
    const difference = found.differences[metric];
    if (typeof challengers !== "number" || typeof champions !== "number")
      throw new ProblemError(
        problem(
          "no_figure",
          `There is no ${METRICS[metric].title} on the ${found.rows} common rows.`,
          "Use a larger holdout.",
        ),
      );
    // The difference is the champion's minus the challenger's: for errors that is the gain itself.
    const lower = METRICS[metric].better === "low";
    const gain = lower ? champions - challengers : challengers - champions;
    const flipped = difference && !lower ? ([-difference[1], -difference[0]] as const) : difference;
    return {
      against: champion.number,
      metric,
      rows: found.rows,
      challenger: challengers,
      champion: champions,
      gain,
      ...(flipped ? { interval: flipped } : { noInterval: found.noIntervals ?? "It has no interval." }),
    };
  } finally {
    await session.drop(said, "drop a scratch table");
  }
}

/**
 * Holds a new version against the one in service on rows that neither has learned from, and keeps what came out. When a schedule
 * trained it, the pipeline's rule decides whether it serves from now on. Where no comparison is possible, a version serves only by the
 * rule that always takes the newest; else a person has to decide, who is told.
 */
export async function challengeChampion(
  shop: Workshop,
  challenger: ModelRow,
  holdout: TableReference | undefined,
): Promise<void> {
  const { plan, context, recorder } = shop;
  const { db } = context.store;
  const pipeline = await pipelineById(db, challenger.pipelineId);
  const scheduled = recorder.run.cause === "schedule";
  const rule = scheduled ? (plan.file.retraining?.rule ?? "never") : "never";
  const promote = (because: string, instead?: number): Promise<unknown> =>
    putInService(context, challenger.id, { by: "the rule for retraining", reason: because }, instead);
  if (!pipeline || pipeline.inService === null) {
    if (rule !== "never") await promote("nothing was in service");
    return;
  }
  const champion = await modelById(db, pipeline.inService);
  if (!champion || champion.id === challenger.id) return;
  await recorder.doing("compare it with the version in service", async () => {
    const compared = await orWhyNot(recorder, () => compareWithChampion(shop, challenger, champion, holdout));
    const { promoted, because } = compared.ok
      ? judgeChallenge(rule, compared.value, plan.file.retraining?.margin ?? 0)
      : {
          promoted: rule === "always",
          because: `it could not be compared with version ${champion.number}. ${compared.why}`,
        };
    // Without a rule, what a rule would make of it is not said.
    const told = scheduled || !compared.ok ? because : because.replace(/;[^;]*$/, ".");
    const served = promoted
      ? await orWhyNot(recorder, () => promote(told, champion.id))
      : ({ ok: false, why: told } as const);
    if (compared.ok)
      await recordChallenge(db, challenger.id, {
        ...compared.value,
        rule,
        promoted: served.ok,
        because: told,
      });
    const says = served.ok
      ? `Version ${challenger.number} is in service now: ${told}`
      : `Version ${challenger.number} stays a candidate; version ${champion.number} remains in service: ${served.why}`;
    const decided = compared.ok && served.ok === promoted;
    if (scheduled || !decided) await recorder.say(decided ? "info" : "warning", says);
    if (rule !== "never") await tellUndecided(shop, pipeline, says, decided || served.ok);
    return {
      value: undefined,
      detail: told,
      ...(compared.ok ? { rows: compared.value.rows } : {}),
    };
  });
}

/** What work gives, or why it could not be done; a run that is to stop stops. */
async function orWhyNot<T>(
  recorder: RunRecorder,
  work: () => Promise<T>,
): Promise<{ readonly ok: true; readonly value: T } | { readonly ok: false; readonly why: string }> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    recorder.stopIfAsked();
    return { ok: false, why: errorText(error) };
  }
}

/** Tells that a person has to decide which version serves, until the rule can decide again. */
async function tellUndecided(
  { context: { store }, recorder }: Workshop,
  { id, name }: PipelineRow,
  says: string,
  decided: boolean,
): Promise<void> {
  const matter = undecidedMatter(id);
  if (decided) return void (await clearAlert(store.db, matter, "the rule could decide"));
  await raiseAlert(store.db, {
    matter,
    kind: "undecided",
    pipelineId: id,
    runId: recorder.run.id,
    title: `The new version of ${name} needs a decision`,
    problems: [problem("not_decided", says, "Compare both, and put the better one in service.")],
  });
}
