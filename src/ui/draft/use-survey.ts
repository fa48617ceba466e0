"use client";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import type { Braid } from "@/core/plan/braid";
import type { Problem } from "@/core/problem";
import type { DraftSurvey } from "@/runs/draft/survey";
import { settle } from "../queries/answer";
import { postJson } from "../queries/fetch-json";

/** A reading of a text, with the text and the share of rows that it is of. */
export interface Surveyed {
  readonly text: string;
  readonly share: number;
  readonly value: DraftSurvey;
}

export interface SurveyState {
  /** The newest reading: of the text as it is, or a moment ago while it is being read. */
  readonly survey: Surveyed;
  /** The newest drawing there was. */
  readonly braid: Braid | undefined;
  /** The text that it is of. */
  readonly drawn: string;
  readonly failure: Problem | undefined;
}

const PAUSE_MILLISECONDS = 90;

/**
 * Reads a draft's text whenever it or the share of rows changes.
 * @param first the reading that the page came with
 */
export function useSurvey(text: string, share: number, first: Surveyed): SurveyState {
  const { data, error } = useQuery<Surveyed>({
    queryKey: ["survey", text, share],
    queryFn: async ({ signal }) => {
      await settle(PAUSE_MILLISECONDS, signal);
      return {
        text,
        share,
        value: await postJson<DraftSurvey>("/api/draft/survey", { text, share }, signal),
      };
    },
    ...(first.text === text && first.share === share ? { initialData: first } : {}),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const newest = useRef(first);
  const drawn = useRef(first);
  if (data) newest.current = data;
  if (newest.current.value.braid) drawn.current = newest.current;
  return {
    survey: newest.current,
    braid: drawn.current.value.braid,
    drawn: drawn.current.text,
    failure: error
      ? {
          code: "unreachable",
          severity: "error",
          message: `The draft could not be checked. ${error.message}`,
          hint: "It is checked again at the next change.",
        }
      : undefined,
  };
}
