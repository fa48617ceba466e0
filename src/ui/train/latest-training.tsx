import { formatDuration, formatShare } from "@/core/format/numbers";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { RunRow, RunRecord } from "@/store/runs";
import type { UsualStep } from "@/store/usual-steps";
import { CancelButton } from "../basic/actions";
import { Problems } from "../basic/problems";
import { StateWord } from "../basic/state-word";
import { TrainingChart } from "../charts/training-chart";
import { ResultLink } from "./result-link";
import { RunSteps } from "./run-steps";
import { candidateOf, chosenPass, countedOf, isLive, lastPasses, type SearchSoFar } from "./training-facts";
import { TrainingProgress } from "./training-progress";
import { TrialCharts } from "./trial-charts";

interface Props {
  readonly run: RunRow;
  readonly record: RunRecord | undefined;
  readonly search: SearchSoFar | undefined;
  readonly file: PipelineFile | undefined;
  /** How its steps went in earlier runs. */
  readonly usual: readonly UsualStep[];
}

/** The width that charts have at most: that of the side they stand on. */
const WIDTH = 900;

/** The latest training run: how far it is, its loss, the trials of its search, and its steps. */
export function LatestTraining({ run, record, search, file, usual }: Props) {
  const live = isLive(run);
  const candidate = candidateOf(run, file);
  const passes = lastPasses(record);
  const steps = (record?.steps ?? []).filter((step) => step.attempt === run.attempt);
  return (
    <section aria-label="Latest training run">
      <h2 className="flex flex-wrap items-center gap-x-3">
        {live ? `Training “${run.options.candidate ?? candidate?.name ?? ""}”` : "The latest training run"}{" "}
        <span className="text-caption font-normal">
          <StateWord state={run.state} />
        </span>{" "}
        <ResultLink live={live} href={run.modelId === null ? `/runs/${run.id}` : `/models/${run.modelId}`}>
          {run.modelId === null ? "its run" : (run.outcome ?? "result")}
        </ResultLink>
      </h2>
      {live && (
        <>
          <div className="mt-1 flex items-start justify-between gap-4">
            <p className="text-faded" role="status">
              {[steps.at(-1)?.name ?? "waiting for a worker", ...circumstances(run)].join("; ")}
            </p>
            <CancelButton run={run.id} />
          </div>
          <TrainingProgress
            steps={steps.map(({ name, startedAt, finishedAt }) => ({
              name,
              startedAt: startedAt.getTime(),
              finishedAt: finishedAt?.getTime() ?? null,
            }))}
            usual={usual}
            counted={countedOf(candidate, search, passes)}
          />
        </>
      )}
      {run.problems.length > 0 && (
        <div className="mt-2">
          <Problems problems={run.problems} />
        </div>
      )}
      {passes.length > 0 && (
        <div className="mt-3">
          <TrainingChart passes={passes} chosen={chosenPass(passes)} width={WIDTH} />
        </div>
      )}
      {search && <TrialCharts trials={search.trials} metric={search.metric} most={search.most} />}
      {steps.length > 0 && <RunSteps steps={steps} live={live} />}
    </section>
  );
}

/** How long it has taken, and what is special about it. */
function circumstances({ startedAt, options }: RunRow): string[] {
  const without = options.without ?? [];
  return [
    ...(startedAt ? [`${formatDuration(Date.now() - startedAt.getTime())} so far`] : []),
    ...(without.length > 0 ? [`without ${without.join(", ")}`] : []),
    ...(options.share === undefined ? [] : [`on ${formatShare(options.share)} of the rows`]),
  ];
}
