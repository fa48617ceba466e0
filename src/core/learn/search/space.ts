import { roundSignificant } from "../../format/numbers";
import { uniform } from "../../numeric/random";
import type { Candidate, PipelineFile, RangeFile, SearchFile } from "../../pipeline/schema";

/** A value that was chosen for a setting of the learner, or of a step. */
export interface Choice {
  readonly step?: string;
  readonly setting: string;
  readonly value: unknown;
}

/** The value of a range at a place in [0, 1). */
function valueAt(range: RangeFile, place: number): unknown {
  if (range.values)
    return range.values[Math.min(range.values.length - 1, Math.floor(place * range.values.length))];
  const [from, to] = [range.from!, range.to!];
  if (range.whole) {
    const value =
      range.scale === "log"
        ? Math.exp(Math.log(from) + place * (Math.log(to + 1) - Math.log(from)))
        : from + place * (to + 1 - from);
    return Math.min(to, Math.floor(value));
  }
  const value =
    range.scale === "log"
      ? Math.exp(Math.log(from) + place * (Math.log(to) - Math.log(from)))
      : from + place * (to - from);
  return roundSignificant(value, 6);
}

/** Choices at a point of the unit cube, one coordinate per range. */
export const choicesAt = (search: SearchFile, point: readonly number[]): readonly Choice[] =>
  search.try.map((range, index) => ({
    ...(range.step === undefined ? {} : { step: range.step }),
    setting: range.setting,
    value: valueAt(range, point[index]!),
  }));

/** A point that a trial of random search looks at. */
export const randomPoint = (search: SearchFile, trial: number): readonly number[] =>
  search.try.map((_, index) => uniform(trial * 97 + index, search.seed));

/** The point of a grid's trial, the last range moving fastest; undefined when the grid has ended. */
export function gridPoint(search: SearchFile, trial: number): readonly number[] | undefined {
  let rest = trial;
  const point = search.try.map(() => 0);
  for (let index = search.try.length - 1; index >= 0; index -= 1) {
    const count = search.try[index]!.values?.length ?? 1;
    point[index] = ((rest % count) + 0.5) / count;
    rest = Math.floor(rest / count);
  }
  return rest > 0 ? undefined : point;
}

/** How many trials a search makes at the most. */
export function trialCount(search: SearchFile): number {
  if (search.how !== "grid") return search.trials;
  return Math.min(
    search.trials,
    search.try.reduce((product, setting) => product * (setting.values?.length ?? 1), 1),
  );
}

/** How many models are fitted in all: for every trial one per fold, one per fold for the candidate itself, and the last on all training rows. */
export function fitCount(
  candidate: Candidate,
  file: PipelineFile,
): { readonly trials: number; readonly folds: number; readonly fits: number } {
  const folds = file.folds?.count ?? (candidate.search ? 5 : 0);
  const trials = candidate.search ? trialCount(candidate.search) : 0;
  return { trials, folds, fits: trials * folds + (candidate.search ? 0 : folds) + 1 };
}

/** The candidate with the chosen settings of its learner. */
export function withChoices(candidate: Candidate, choices: readonly Choice[]): Record<string, unknown> {
  const own = choices
    .filter((choice) => choice.step === undefined)
    .map((choice): [string, unknown] => [choice.setting, choice.value]);
  return { ...candidate.settings, ...Object.fromEntries(own) };
}
