import { formatDuration, formatShare } from "@/core/format/numbers";
import { metricsFor } from "@/core/evaluate/metrics";
import { trialCount } from "@/core/learn/search/space";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { RunRow, RunRecord } from "@/store/runs";
import type { ComponentProps } from "react";
import { CancelButton } from "../basic/actions";
import { Problems } from "../basic/problems";
import { StateWord } from "../basic/state-word";
import { TrainingChart } from "../charts/training-chart";
import { ResultLink } from "./result-link";
import { RunSteps } from "./run-steps";
import { SearchRanking } from "./search-ranking";

interface Props {
  readonly run: RunRow;
  readonly record: RunRecord | undefined;
  readonly trials: ComponentProps<typeof SearchRanking>["trials"];
  readonly file: PipelineFile | undefined;
}

export const isLive = ({ state }: RunRow): boolean => state === "running" || state === "queued";

/** The latest training run: how far it is, its loss, its steps, and the trials of its search. */
export function LatestTraining({ run, record, trials, file }: Props) {
  const live = isLive(run);
  const candidate = file?.candidates.find(
    ({ name }) => name === (run.options.candidate ?? file.candidates[0]?.name),
  );
  const attempt = Math.max(0, ...(record?.passes ?? []).map((pass) => pass.attempt));
  const passes = (record?.passes ?? []).filter((pass) => pass.attempt === attempt);
  const held = passes.filter(({ validation }) => validation !== null);
  const best = held.reduce<(typeof held)[number] | undefined>(
    (least, pass) => (least && least.validation! <= pass.validation! ? least : pass),
    undefined,
  );
  return (
    <section className="mb-8" aria-label="Latest training run">
      <h2 className="flex items-center gap-3">
        {live ? `Training “${run.options.candidate ?? candidate?.name ?? ""}”` : "The latest training run"}{" "}
        <span className="text-sm font-normal">
          <StateWord state={run.state} />
        </span>{" "}
        <ResultLink live={live} href={run.modelId === null ? `/runs/${run.id}` : `/models/${run.modelId}`}>
          {run.modelId === null ? "its run" : (run.outcome ?? "result")}
        </ResultLink>
        {live && <CancelButton run={run.id} />}
      </h2>
      {live && (
        <p className="text-faded" role="status">
          {[record?.steps.at(-1)?.name ?? "waiting for a worker", ...circumstances(run)].join("; ")}
        </p>
      )}
      {run.problems.length > 0 && (
        <div className="mt-2">
          <Problems problems={run.problems} />
        </div>
      )}
      <div className="mt-3 flex flex-wrap gap-x-10 gap-y-4">
        {passes.length > 0 && <TrainingChart passes={passes} chosen={best?.pass} />}
        {record && record.steps.length > 0 && (
          <RunSteps steps={record.steps.filter((step) => step.attempt === run.attempt)} live={live} />
        )}
      </div>
      {trials.length > 0 && (
        <div className="mt-3">
          <SearchRanking
            trials={trials}
            metric={candidate?.search?.metric ?? metricsFor(file?.roles.target.kind ?? "binary")[0]!}
            most={candidate?.search ? trialCount(candidate.search) : trials.length}
          />
        </div>
      )}
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
