import { ALGORITHM_NAMES, ALGORITHMS } from "@/core/learn/algorithms";
import type { ScoreCurve } from "@/core/evaluate/score-curve";
import type { LearnedPart } from "@/server/learned";

/** What is shown of each of two trials. */
export interface Side {
  readonly id: number;
  readonly number: number;
  readonly candidate: string;
  readonly file: number;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly without: readonly string[];
  readonly curve: ScoreCurve | undefined;
  readonly importance: readonly { readonly column: string; readonly worse: number }[];
  readonly learned: readonly LearnedPart[];
}

/** Whether a side has the algorithm's default for a setting, or no such setting. */
function isStandard({ settings }: Side, name: string): boolean {
  const algorithm = ALGORITHM_NAMES.find((algorithmName) => algorithmName === settings["algorithm"]);
  const standard: Readonly<Record<string, unknown>> = algorithm
    ? ALGORITHMS[algorithm].settings.parse({})
    : {};
  return settings[name] === undefined || JSON.stringify(settings[name]) === JSON.stringify(standard[name]);
}

/** @returns names of settings in which two trials differ; defaults are not told */
export const differingSettings = (first: Side, second: Side): string[] =>
  [...new Set([...Object.keys(first.settings), ...Object.keys(second.settings)])].filter(
    (name) =>
      JSON.stringify(first.settings[name]) !== JSON.stringify(second.settings[name]) &&
      !(isStandard(first, name) && isStandard(second, name)),
  );

/** @returns a trial by its version, candidate and what it does without */
export const sideTitle = (side: Side): string =>
  `version ${side.number}, ${side.candidate}${side.without.length > 0 ? ` without ${side.without.join(", ")}` : ""}`;
