import { formatDuration, formatNumber } from "@/core/format/numbers";
import type { RunRow } from "@/store/runs";
import { moment } from "../basic/format";
import { CAUSE_WORDS } from "./cause-words";

/** Statements that bring rows to the worker: to train on them, or to predict them there. */
const STREAMING = /^(stream the training frame to the worker|rows to score here|rows of fold)/;
/** Runs that were recorded earlier say "answers". */
const EVALUATING = /^read predictions and (targets|answers)$/;

/** Where rows were computed, by what a run's statements are for. */
function placeOf(purposes: readonly string[]): string {
  if (purposes.some((purpose) => STREAMING.test(purpose))) return "rows streamed to the worker";
  return purposes.some((purpose) => EVALUATING.test(purpose))
    ? "rows stay in the warehouse; predictions and targets are read for evaluation"
    : "rows stay in the warehouse";
}

/** What is known of a run, in one line. */
export function RunFacts({
  run,
  file,
  purposes,
}: {
  readonly run: RunRow;
  /** Number of its file version. */
  readonly file: number | undefined;
  /** What its statements were for. */
  readonly purposes: readonly string[];
}) {
  const took =
    run.startedAt && run.finishedAt
      ? formatDuration(run.finishedAt.getTime() - run.startedAt.getTime())
      : "–";
  const facts: readonly (readonly [string, string])[] = [
    ["Logical time", moment(run.runTime)],
    ["Started by", CAUSE_WORDS[run.cause]],
    ["Ordered", moment(run.createdAt)],
    ["Took", took],
    ["Rows", formatNumber(run.rows)],
    ["File version", String(file ?? "–")],
    ["Attempts", String(run.attempt)],
    ["Place", placeOf(purposes)],
  ];
  return (
    <dl className="mb-5 flex flex-wrap gap-x-8 gap-y-1 text-caption">
      {facts.map(([name, value]) => (
        <div key={name}>
          <dt className={`text-faded ${name === "Ordered" ? "real-time" : ""}`}>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}
