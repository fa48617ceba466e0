"use client";
import { cancelRun, changeService, pauseSchedule, runAgain, startRun } from "@/server/actions";
import { ActButton } from "./act";

const toRun = (id: unknown): string => `/runs/${String(id)}`;

export function TrainButton({ pipeline }: { readonly pipeline: string }) {
  return <ActButton main act={() => startRun({ kind: "train", pipeline })} goTo={toRun}>Train</ActButton>;
}

export function ScoreButton({ pipeline, delivery, disabled }: { readonly pipeline: string; readonly delivery: string; readonly disabled: boolean }) {
  return <ActButton disabled={disabled} act={() => startRun({ kind: "score", pipeline, delivery })} goTo={toRun}>Score now</ActButton>;
}

export function CancelButton({ run }: { readonly run: string }) {
  return <ActButton act={() => cancelRun(run)} done="Asked to stop.">Cancel</ActButton>;
}

export function AgainButton({ run }: { readonly run: string }) {
  return <ActButton act={() => runAgain(run)} goTo={toRun}>Run again</ActButton>;
}

export function ServiceButton({ model, version, inService, quiet = false }: { readonly model: number; readonly version: number; readonly inService: boolean; readonly quiet?: boolean }) {
  return inService
    ? <ActButton act={() => changeService(model, false)} done={`Version ${version} is out of service.`} confirm={`Take version ${version} out of service? Scheduled scoring will fail until another version is in service.`}>Take out of service</ActButton>
    : <ActButton main={!quiet} act={() => changeService(model, true)} done={`Version ${version} is in service.`}>Put in service</ActButton>;
}

export function PauseButton({ schedule, paused }: { readonly schedule: number; readonly paused: boolean }) {
  return <ActButton act={() => pauseSchedule(schedule, !paused)} done={paused ? "The schedule goes on." : "The schedule is paused."}>{paused ? "Go on" : "Pause"}</ActButton>;
}
