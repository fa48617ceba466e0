import type { z } from "zod";
import { METRICS, metricsFor } from "../evaluate/metrics";
import { ALGORITHMS, ALGORITHM_NAMES, factsOf } from "../learn/algorithms";
import { suggestion } from "../nearest";
import { describeMistake } from "../pipeline/describe-mistake";
import type { Candidate, PipelineFile, RangeFile } from "../pipeline/schema";
import { problem, warning, type Problem } from "../problem";
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
          `${facts.title} does not predict ${target.kind === "number" ? "numbers" : target.kind === "binary" ? "yes or no" : "several classes"}.`,
          `Learners that do: ${others.join(", ")}.`,
          { path: [...path, "algorithm"] },
        ),
      );
    }
    if (candidate.engine !== "auto" && !facts.engines.includes(candidate.engine))
      report(
        problem(
          "algorithm_engine",
          `${facts.title} needs the rows themselves, so they must stream to the worker.`,
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
  if (search.how === "grid" && search.try.every((each) => each.values)) {
    const combinations = search.try.reduce((product, each) => product * (each.values?.length ?? 1), 1);
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
    report(
      problem("search_range", "Say which values to try.", "Give values: [...], or from and to.", { path }),
    );
  if (values === undefined && from !== undefined && to !== undefined && !(from < to))
    report(problem("search_range", "The range is empty.", "Let from be smaller than to.", { path }));
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
        "On a logarithmic scale the range must lie above 0.",
        "Let from be larger than 0.",
        { path: [...path, "from"] },
      ),
    );
  if (range.step === undefined) {
    const known = Object.keys(ALGORITHMS[candidate.algorithm].settings.shape);
    if (!known.includes(range.setting))
      report(
        problem(
          "search_setting",
          `${factsOf(candidate.algorithm).title} has no setting "${range.setting}".`,
          suggestion(range.setting, known, "setting"),
          { path: [...path, "setting"] },
        ),
      );
    else checkValues(range, candidate, path, report);
    return;
  }
  const names = main.steps.map(({ step }) => step.name);
  const found = main.steps.find(({ step }) => step.name === range.step);
  if (!found)
    report(
      problem(
        "search_step",
        `The strand "${main.name}" has no step named "${range.step}".`,
        suggestion(range.step, names, "step"),
        { path: [...path, "step"] },
      ),
    );
}

/** Whether a learner's setting can have the values that are tried. */
function checkValues(range: RangeFile, candidate: Candidate, path: Path, report: Report): void {
  const schema = ALGORITHMS[candidate.algorithm].settings.shape as Readonly<Record<string, z.ZodType>>;
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
          `"${range.setting}"${describeMistake(issue, value)}; the search would try ${JSON.stringify(value)}.`,
          "See docs/learners.md for what it may be.",
          { path: at },
        ),
      );
  }
}
