"use client";
import { useRunEvents } from "../frame/use-run-events";

/** Keeps the page of a run up to date while it runs. */
export function LiveRun({ run }: { readonly run: string }) {
  useRunEvents(run);
  return null;
}
