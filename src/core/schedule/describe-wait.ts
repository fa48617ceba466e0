import { formatCount, formatDuration } from "../format/numbers";

/** What a run waits for when only a worker's time holds it up. */
export interface Wait {
  readonly small: boolean;
  /** What the workers do that could take it. */
  readonly doing: readonly Doing[];
  /** Runs that are before it. */
  readonly before: number;
  /** Seconds until it begins; undefined where nobody knows. */
  readonly startsIn: number | undefined;
  /** Workers are there, but none of them takes it. */
  readonly nobodyTakesIt: boolean;
}

export interface Doing {
  readonly id: string;
  readonly kind: "train" | "score";
  readonly pipeline: string;
  readonly secondsSoFar: number;
  /** What is left of it; undefined where no earlier run tells. */
  readonly secondsLeft: number | undefined;
}

/** A duration that is only roughly known. */
function roughly(seconds: number): string {
  if (seconds < 60) return formatCount(Math.max(5, Math.round(seconds / 5) * 5), "second");
  const minutes = Math.round(seconds / 60);
  return minutes < 120 ? formatCount(minutes, "minute") : formatCount(Math.round(minutes / 60), "hour");
}

function describeDoing({ kind, pipeline, secondsSoFar, secondsLeft }: Doing): string {
  const left = secondsLeft === undefined ? "" : `, about ${roughly(secondsLeft)} left`;
  return `${kind === "train" ? "training" : "scoring"} ${pipeline} (${formatDuration(1000 * Math.round(secondsSoFar))} so far${left})`;
}

/** What a run waits for and about how long, for a person. */
export function describeWait({ small, doing, before, startsIn, nobodyTakesIt }: Wait): string {
  if (nobodyTakesIt)
    return "The running workers take only small runs, and this run is large. It starts when the other worker is back.";
  const busy =
    doing.length === 0
      ? "A worker is free; the run starts within seconds."
      : `${small ? "The workers are" : "The worker for large runs is"} busy with ${doing.map(describeDoing).join(" and ")}.`;
  const queue =
    before === 0 ? "" : ` ${formatCount(before, "run")} ${before === 1 ? "is" : "are"} ahead of it.`;
  const when =
    startsIn === undefined
      ? " The waiting time is unknown, because no similar run has ended yet."
      : ` It starts in about ${roughly(startsIn)}.`;
  return doing.length === 0 && before === 0 ? busy : `${busy}${queue}${when}`;
}
