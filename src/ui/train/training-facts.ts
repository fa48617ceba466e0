import { metricsFor, type MetricName } from "@/core/evaluate/metrics";
import { trialCount } from "@/core/learn/search/space";
import type { Counted } from "@/core/progress/run-progress";
import type { Candidate, PipelineFile } from "@/core/pipeline/schema";
import type { RunRecord, RunRow } from "@/store/runs";
import type { SearchTrialRow } from "@/store/searches";

type Passes = RunRecord["passes"];

/** A search as it stands. */
export interface SearchSoFar {
  readonly trials: readonly SearchTrialRow[];
  readonly metric: MetricName;
  /** Trials that it makes at most. */
  readonly most: number;
}

export const isLive = ({ state }: RunRow): boolean => state === "running" || state === "queued";

/** The candidate that a run trains; none where the file no longer has it. */
export const candidateOf = (run: RunRow, file: PipelineFile | undefined): Candidate | undefined =>
  file?.candidates.find(({ name }) => name === (run.options.candidate ?? file.candidates[0]?.name));

/** The search of a training run; none where it has tried nothing. */
export function searchOf(
  run: RunRow,
  file: PipelineFile | undefined,
  trials: readonly SearchTrialRow[],
): SearchSoFar | undefined {
  if (trials.length === 0) return undefined;
  const search = candidateOf(run, file)?.search;
  return {
    trials,
    metric: search?.metric ?? metricsFor(file?.roles.target.kind ?? "binary")[0]!,
    most: search ? trialCount(search) : trials.length,
  };
}

/** Passes of the last attempt. */
export function lastPasses(record: RunRecord | undefined): Passes {
  const attempt = Math.max(0, ...(record?.passes ?? []).map((pass) => pass.attempt));
  return (record?.passes ?? []).filter((pass) => pass.attempt === attempt);
}

/** The pass with the least loss on validation rows; none where no rows are kept apart. */
export function chosenPass(passes: Passes): number | undefined {
  const held = passes.filter(({ validation }) => validation !== null);
  return held.reduce<(typeof held)[number] | undefined>(
    (least, pass) => (least && least.validation! <= pass.validation! ? least : pass),
    undefined,
  )?.pass;
}

/** What can be counted within the step that goes on: trials of a search, else trees or epochs. */
export function countedOf(
  candidate: Candidate | undefined,
  search: SearchSoFar | undefined,
  passes: Passes,
): Counted | undefined {
  if (search && search.trials.length < search.most)
    return { what: "combinations tried", done: search.trials.length, of: search.most };
  const last = passes.at(-1);
  const what = last?.scope === "tree" ? "trees" : "epochs";
  const most: unknown = Object.entries(candidate?.settings ?? {}).find(([name]) => name === what)?.[1];
  if (!last || typeof most !== "number") return undefined;
  return { what, done: last.pass, of: most };
}
