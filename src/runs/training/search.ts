import { formatNumber } from "@/core/format/numbers";
import { settingName, settingText } from "@/core/format/setting-text";
import { METRICS, metricsFor } from "@/core/evaluate/metrics";
import type { Figures, MetricName } from "@/core/evaluate/metrics";
import { nextPoint, type Tried } from "@/core/learn/search/next";
import { withWholeNumbers } from "@/core/learn/search/searchable";
import { searchableIn } from "@/core/plan/check-candidates";
import { choicesAt, trialCount, withChoices, type Choice } from "@/core/learn/search/space";
import { candidateSchema, type Candidate, type SearchFile } from "@/core/pipeline/schema";
import { describeProblem, problem, ProblemError } from "@/core/problem";
import { addTrial, trialsOf } from "@/store/searches";
import { Cancelled } from "../recorder";
import { isConnectionLoss, problemsOf } from "../failure";
import { foldList, type FoldFrames } from "./folds";
import type { Workshop } from "./workshop";

export interface SearchResult {
  readonly choices: readonly Choice[];
  readonly metric: MetricName;
  readonly score: number;
  readonly trials: number;
}

/** Opens the workshop in which steps have the chosen settings: another file, so other rows. */
export type OpenVariant = (
  choices: readonly Choice[],
) => Promise<{ readonly shop: Workshop; readonly frames: FoldFrames }>;

/** A candidate with chosen settings, checked as if they stood in the file. */
export function chosenCandidate(candidate: Candidate, choices: readonly Choice[]): Candidate {
  const parsed = candidateSchema.safeParse({
    ...candidate,
    search: undefined,
    settings: withChoices(candidate, choices),
  });
  if (!parsed.success)
    throw new ProblemError(
      problem(
        "search_setting",
        `Invalid settings: ${parsed.error.issues[0]?.message ?? "unknown"}.`,
        "Check the ranges of the search.",
      ),
    );
  return parsed.data;
}

const describe = (choices: readonly Choice[]): string =>
  choices.map((choice) => `${settingName(choice)} ${settingText(choice.value)}`).join(", ");

/**
 * Tries settings over the folds, one combination after the other, and gives the best. Every trial is kept as it ends, so that a run
 * that is taken up again goes on where it was; and each is said as it ends, so that the ranking can be followed.
 */
export async function searchSettings(
  shop: Workshop,
  candidate: Candidate,
  told: SearchFile,
  open: OpenVariant,
): Promise<SearchResult> {
  const { recorder, context } = shop;
  const search = withWholeNumbers(told, searchableIn(candidate.algorithm, shop.plan.main));
  const { db } = context.store;
  const metric = search.metric ?? metricsFor(shop.plan.file.roles.target.kind)[0]!;
  const sign = METRICS[metric].better === "low" ? 1 : -1;
  const earlier = await trialsOf(db, recorder.run.id);
  const most = trialCount(search);
  const started = Date.now();
  const tried: (Tried & { readonly choices: readonly Choice[] })[] = [];
  let since = 0;
  for (let number = 0; number < most; number += 1) {
    const point = nextPoint(search, number, tried);
    if (!point) break;
    const choices = choicesAt(search, point);
    const kept = earlier.find((trial) => trial.number === number) ?? (await tryOnce(number, choices));
    const score = kept.score === null ? Infinity : sign * kept.score;
    const best = Math.min(Infinity, ...tried.map((trial) => trial.score));
    tried.push({ point, score, choices });
    since = score < best ? 0 : since + 1;
    if (search.stop_after !== undefined && since >= search.stop_after) break;
    if (search.most_minutes !== undefined && (Date.now() - started) / 60_000 >= search.most_minutes) break;
  }
  const best = tried.reduce<(typeof tried)[number] | undefined>(
    (one, item) => (one === undefined || item.score < one.score ? item : one),
    undefined,
  );
  if (!best || !Number.isFinite(best.score))
    throw new ProblemError(
      problem(
        "search_failed",
        "No combination of settings could be trained.",
        "See the trials for the reasons.",
      ),
    );
  await recorder.say(
    "info",
    `Best of ${tried.length} combinations: ${describe(best.choices)}; ${METRICS[metric].title} over the folds ${formatNumber(sign * best.score)}.`,
  );
  return { choices: best.choices, metric, score: sign * best.score, trials: tried.length };

  async function tryOnce(
    number: number,
    choices: readonly Choice[],
  ): Promise<{ readonly score: number | null }> {
    const same = earlier.find((trial) => JSON.stringify(trial.choices) === JSON.stringify(choices));
    return recorder.doing(`trial ${number + 1} of ${most}: ${describe(choices)}`.slice(0, 200), async () => {
      const begun = performance.now();
      const folds: Figures[] = [];
      let failed: string | undefined;
      try {
        if (same) folds.push(...same.folds);
        else {
          const variant = await open(choices);
          const chosen = chosenCandidate(candidate, choices);
          for (const fold of foldList(variant.shop)) {
            recorder.stopIfAsked();
            folds.push((await variant.frames.judge(chosen, undefined, fold)).figures);
          }
        }
      } catch (error) {
        if (error instanceof Cancelled || recorder.cancelled || isConnectionLoss(error)) throw error;
        failed = problemsOf(error).map(describeProblem).join(" ");
      }
      const values = folds.flatMap((fold) => (typeof fold[metric] === "number" ? [fold[metric]] : []));
      const score =
        failed === undefined && values.length > 0
          ? values.reduce((sum, value) => sum + value, 0) / values.length
          : null;
      await addTrial(db, {
        runId: recorder.run.id,
        number,
        choices,
        folds: failed === undefined ? folds : [],
        score,
        problem: failed ?? null,
        seconds: (performance.now() - begun) / 1000,
      });
      return {
        value: { score },
        detail:
          score === null
            ? (failed ?? "no metric")
            : `${METRICS[metric].title} ${formatNumber(score)} over ${values.length} folds`,
      };
    });
  }
}
