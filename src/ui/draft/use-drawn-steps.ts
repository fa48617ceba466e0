"use client";
import { useMemo } from "react";
import type { Crossing } from "@/core/plan/braid";
import type { Result } from "@/core/problem";
import { noStep, type StepPlace } from "@/core/pipeline/edit/steps";
import { stepsNow } from "@/core/pipeline/edit/steps-now";
import type { Draft } from "./use-draft";

/** Steps of the drawing as they are in the text, which may have changed since it was drawn. */
export interface DrawnSteps {
  /** Where a step is in a text; undefined when it is no longer there. */
  readonly find: (crossing: Crossing, text: string) => StepPlace | undefined;
  /** Edits a step where it is by now. Returns whether the text changed. */
  readonly edit: (crossing: Crossing, change: (text: string, place: StepPlace) => Result<string>) => boolean;
}

/** @param drawn the text that the drawing is of */
export function useDrawnSteps(drawn: string, edit: Draft["edit"]): DrawnSteps {
  return useMemo(() => {
    const find: DrawnSteps["find"] = ({ strandIndex, position }, text) =>
      stepsNow(drawn, text)({ strand: strandIndex, position });
    return {
      find,
      edit: (crossing, change) =>
        edit((text) => {
          const place = find(crossing, text);
          return place ? change(text, place) : noStep();
        }),
    };
  }, [drawn, edit]);
}
