"use client";
import { formatDuration, formatShare } from "@/core/format/numbers";
import { describeProgress } from "@/core/format/progress";
import {
  progressOf,
  type Counted,
  type RunProgress,
  type TimedStep,
  type UsualTime,
} from "@/core/progress/run-progress";
import { useNow } from "../basic/use-now";

const TICK_MILLISECONDS = 500;

interface Props {
  readonly steps: readonly TimedStep[];
  readonly usual: readonly UsualTime[];
  readonly counted: Counted | undefined;
}

/** How long it still takes, and what that is known from. */
function leftWords({ left, basis }: RunProgress): string {
  if (left === null) return "";
  if (basis === "count") return `at least ${formatDuration(left)} left`;
  return left === 0
    ? "taking longer than earlier runs"
    : `about ${formatDuration(left)} left, based on earlier runs`;
}

/** A bar with the share that is done, and the time that is left; without anything to tell it from, a bar that only says that it goes on. */
export function TrainingProgress({ steps, usual, counted }: Props) {
  const now = useNow(TICK_MILLISECONDS);
  const progress =
    now === undefined
      ? { share: null, left: null, basis: "none" as const }
      : progressOf(steps, usual, counted, now);
  const share = progress.share === null ? "" : `${formatShare(Math.floor(100 * progress.share) / 100)} done`;
  const words = [share, leftWords(progress), counted ? describeProgress(counted) : ""].filter(Boolean);
  return (
    <div className="my-2 min-h-11">
      <progress
        className="block w-full"
        aria-label="Training progress"
        {...(progress.share === null ? {} : { value: progress.share, max: 1 })}
      />
      <p className="figure mt-1 text-caption">{words.join(" · ")}</p>
    </div>
  );
}
