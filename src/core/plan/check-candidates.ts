import type { z } from "zod";
import { METRICS, metricsFor } from "../evaluate/metrics";
import { ALGORITHMS, ALGORITHM_NAMES, factsOf } from "../learn/algorithms";
import { searchableSettings, type Searchable } from "../learn/search/searchable";
import { TARGET_WORDS } from "../learn/task";
import { suggestion } from "../nearest";
import { describeMistake } from "../pipeline/describe-mistake";
import type { Candidate, PipelineFile, RangeFile } from "../pipeline/schema";
import { problem, warning, type Problem } from "../problem";
import { stepKind } from "../steps";
import type { CheckedStrand } from "./plan";

type Report = (found: Problem) => void;
type Path = readonly (string | number)[];

/** Whether candidates suit the target, engines suit learners, and what a search tries exists. */
export function checkCandidates(file: PipelineFile, main: CheckedStrand, report: Report): void {
  const { target, time } = file.roles;
  file.candidates.forEach((candidate, index) => {
    const path: Path = ["candidates", index];
    const facts = factsOf(candidate.algorithm);
    if (!facts.targets.includes(target.kind)) {
      const others = ALGORITHM_NAMES.filter((name) => factsOf(name).targets.includes(target.kind));
      report(
        problem(
          "algorithm_target",
          `${facts.title} does not predict ${TARGET_WORDS[target.kind]}.`,
          `Algorithms that do: ${others.join(", ")}.`,
          { path: [...path, "algorithm"] },
        ),
      );
    }
    if (candidate.engine !== "auto" && !facts.engines.includes(candidate.engine))
      report(
        problem(
          "algorithm_engine",
          `${facts.title} needs individual rows, so they must stream to the worker.`,
          "Use engine: streaming, or auto.",
          { path: [...path, "engine"] },
        ),
      );
    if (candidate.algorithm === "base_rate" && candidate.settings.predict === "last" && time === undefined)
      report(
        problem("no_time", "The last value needs a time column.", "Add roles.time, or predict the mean.", {
          path: [...path, "settings", "predict"],
        }),
      );
    if (candidate.search) checkSearch(candidate, file, main, [...path, "search"], report);
  });
}

function checkSearch(
  candidate: Candidate,
  file: PipelineFile,
  main: CheckedStrand,
  path: Path,
  report: Report,
): void {
  const { search } = candidate;
  if (!search) return;
  if (search.metric && !metricsFor(file.roles.target.kind).includes(search.metric))
    report(
      problem(
        "unknown_metric",
        `${METRICS[search.metric].title} does not exist for this kind of target.`,
        `Use one of ${metricsFor(file.roles.target.kind).join(", ")}.`,
        { path: [...path, "metric"] },
      ),
    );
  search.try.forEach((range, index) =>
    checkRange(range, candidate, main, search.how === "grid", [...path, "try", index], report),
  );
  if (search.how === "grid" && search.try.every((setting) => setting.values)) {
    const combinations = search.try.reduce((product, setting) => product * (setting.values?.length ?? 1), 1);
    if (combinations > search.trials)
      report(
        warning(
          "grid_cut",
          `The grid has ${combinations} combinations, of which the first ${search.trials} are tried.`,
          "Raise trials, or use how: random.",
          { path: [...path, "trials"] },
        ),
      );
  }
}

function checkRange(
  range: RangeFile,
  candidate: Candidate,
  main: CheckedStrand,
  grid: boolean,
  path: Path,
  report: Report,
): void {
  const { values, from, to } = range;
  if (values === undefined && (from === undefined || to === undefined))
    report(problem("search_range", "No values to try.", "Give values: [...], or from and to.", { path }));
  if (values === undefined && from !== undefined && to !== undefined && !(from < to))
    report(problem("search_range", "The range is empty.", "Make from smaller than to.", { path }));
  if (values === undefined && grid)
    report(
      problem("search_range", "A grid needs the values to try.", "Give values: [...], or use how: random.", {
        path,
      }),
    );
  if (range.scale === "log" && from !== undefined && from <= 0)
    report(
      problem(
        "search_range",
        "On a logarithmic scale, the range must be above 0.",
        "Make from larger than 0.",
        { path: [...path, "from"] },
      ),
    );
  const shape = searchedShape(range, candidate, main, path, report);
  if (shape) checkValues(range, shape, path, report);
}

type Shape = Readonly<Record<string, z.ZodType>>;

/** The settings among which that of a range is, by their schemas; undefined (and a problem reported) where there is no such step or setting. */
function searchedShape(
  range: RangeFile,
  candidate: Candidate,
  main: CheckedStrand,
  path: Path,
  report: Report,
): Shape | undefined {
  const { setting, step } = range;
  const found = step === undefined ? undefined : main.steps.find((checked) => checked.step.name === step);
  if (step !== undefined && !found) {
    report(
      problem(
        "search_step",
        `The strand "${main.name}" has no step named "${step}".`,
        suggestion(
          step,
          main.steps.map((checked) => checked.step.name),
          "step",
        ),
        { path: [...path, "step"] },
      ),
    );
    return undefined;
  }
  const settings = settingsSchema(candidate.algorithm, found?.step.kind);
  const known = searchableSettings(settings).map((searchable) => searchable.setting);
  if (known.includes(setting)) return settings.shape as Shape;
  report(
    problem(
      "search_setting",
      found
        ? `The step "${found.step.name}" has no setting "${setting}" that can be searched.`
        : `${factsOf(candidate.algorithm).title} has no setting "${setting}" that can be searched.`,
      known.length === 0 ? "Choose another step." : suggestion(setting, known, "setting"),
      { path: [...path, "setting"] },
    ),
  );
  return undefined;
}

/** The settings of a learner, or of a kind of step. */
const settingsSchema = (algorithm: Candidate["algorithm"], step: string | undefined): z.ZodObject => {
  const kind = step === undefined ? undefined : stepKind(step);
  return kind ? kind.settings : ALGORITHMS[algorithm].settings;
};

/** What a search over a candidate can try: of its learner, or of a step of the main strand by its name. */
export const searchableIn =
  (algorithm: Candidate["algorithm"], main: CheckedStrand) =>
  (step: string | undefined): readonly Searchable[] => {
    const found = main.steps.find((checked) => checked.step.name === step);
    if (step !== undefined && !found) return [];
    return searchableSettings(settingsSchema(algorithm, found?.step.kind));
  };

/** Whether a setting can have the values that are tried. */
function checkValues(range: RangeFile, schema: Shape, path: Path, report: Report): void {
  const tried: readonly (readonly [value: unknown, at: Path])[] = [
    ...(range.values ?? []).map((value, index) => [value, [...path, "values", index]] as const),
    ...([range.from, range.to] as const).flatMap((value, index) =>
      value === undefined ? [] : [[value, [...path, index === 0 ? "from" : "to"]] as const],
    ),
  ];
  for (const [value, at] of tried) {
    const issue = schema[range.setting]!.safeParse(value).error?.issues[0];
    // Numbers drawn from a range are rounded for a setting that takes whole ones.
    const rounded = issue?.code === "invalid_type" && range.values === undefined;
    if (issue && !rounded)
      report(
        problem(
          "search_value",
          `"${range.setting}"${describeMistake(issue, value)}; the search would use ${JSON.stringify(value)}.`,
          range.step === undefined
            ? "See docs/learners.md for allowed values."
            : "See docs/steps.md for allowed values.",
          { path: at },
        ),
      );
  }
}
