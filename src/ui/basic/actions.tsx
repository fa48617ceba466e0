"use client";
import { Archive, ArchiveRestore, CirclePlay, Pause, Play, SkipForward } from "lucide-react";
import {
  cancelRun,
  changeRetirement,
  pauseSchedule,
  runAgain,
  skipNextTime,
  startRun,
} from "@/server/actions";
import { goOnWithRun } from "@/server/operating-actions";
import { ActButton } from "./act";

const toRun = (id: unknown): string => `/runs/${String(id)}`;

export function TrainButton({ pipeline }: { readonly pipeline: string }) {
  return (
    <ActButton main act={() => startRun({ kind: "train", pipeline })} goTo={toRun}>
      Train
    </ActButton>
  );
}

export function ScoreButton({
  pipeline,
  delivery,
  features,
  disabled,
}: {
  readonly pipeline: string;
  readonly delivery: string;
  /** Whether features are delivered, not predictions. */
  readonly features: boolean;
  readonly disabled: boolean;
}) {
  return (
    <ActButton
      icon={Play}
      disabled={disabled}
      act={() => startRun({ kind: "score", pipeline, delivery })}
      goTo={toRun}
    >
      {features ? "Prepare now" : "Score now"}
    </ActButton>
  );
}

export function CancelButton({ run }: { readonly run: string }) {
  return (
    <ActButton act={() => cancelRun(run)} done="Stopping.">
      Cancel
    </ActButton>
  );
}

export function AgainButton({ run }: { readonly run: string }) {
  return (
    <ActButton act={() => runAgain(run)} goTo={toRun}>
      Run again
    </ActButton>
  );
}

export function GoOnButton({ run }: { readonly run: string }) {
  return (
    <ActButton main act={() => goOnWithRun(run)} done="Resumed.">
      Resume from the failure
    </ActButton>
  );
}

export function RetireButton({
  model,
  version,
  retired,
}: {
  readonly model: number;
  readonly version: number;
  readonly retired: boolean;
}) {
  return retired ? (
    <ActButton
      icon={ArchiveRestore}
      act={() => changeRetirement(model, false)}
      done={`Version ${version} can be put in service again.`}
    >
      Restore
    </ActButton>
  ) : (
    <ActButton
      icon={Archive}
      act={() => changeRetirement(model, true)}
      done={`Version ${version} is retired.`}
      confirm={`Retire version ${version}? It can no longer be put in service and its functions in the warehouse are dropped. Its record and metrics are kept.`}
    >
      Retire
    </ActButton>
  );
}

export function RunScheduleButton({
  pipeline,
  run,
  delivery,
  disabled,
}: {
  readonly pipeline: string;
  readonly run: "score" | "train";
  readonly delivery: string | null;
  readonly disabled: boolean;
}) {
  return (
    <ActButton
      icon={Play}
      disabled={disabled}
      act={() => startRun({ kind: run, pipeline, ...(delivery === null ? {} : { delivery }) })}
      goTo={toRun}
    >
      Run now
    </ActButton>
  );
}

export function SkipButton({ schedule }: { readonly schedule: number }) {
  return (
    <ActButton icon={SkipForward} act={() => skipNextTime(schedule)} done="The next run is skipped.">
      Skip next run
    </ActButton>
  );
}

export function PauseButton({ schedule, paused }: { readonly schedule: number; readonly paused: boolean }) {
  return (
    <ActButton
      icon={paused ? CirclePlay : Pause}
      act={() => pauseSchedule(schedule, !paused)}
      done={paused ? "Schedule resumed." : "Schedule paused."}
    >
      {paused ? "Resume" : "Pause"}
    </ActButton>
  );
}
