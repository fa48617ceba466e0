"use client";
import { createContext, useContext, useState, type ReactNode } from "react";
import type { Braid } from "@/core/plan/braid";
import type { Problem } from "@/core/problem";
import type { DraftSurvey } from "@/runs/draft/survey";
import type { EditorWords } from "@/server/editor-words";
import type { Draft } from "./use-draft";
import { useDrawnSteps, type DrawnSteps } from "./use-drawn-steps";
import { useSurvey } from "./use-survey";

/** The draft, what is known of it, and how to ask more. */
export interface DraftDesk {
  readonly pipeline: string;
  readonly draft: Draft;
  readonly words: EditorWords;
  /** Share of the rows that is worked on: 1 for all. */
  readonly share: number;
  readonly setShare: (share: number) => void;
  /** The newest drawing: of the text as it is, or a moment ago while `reading`. */
  readonly braid: Braid | undefined;
  /** The text that it is of. */
  readonly drawn: string;
  readonly steps: DrawnSteps;
  readonly problems: readonly Problem[];
  readonly keys: DraftSurvey["keys"];
  /** The text that problems and keys belong to. */
  readonly surveyed: string;
  readonly reading: boolean;
}

const Context = createContext<DraftDesk | undefined>(undefined);

export function useDesk(): DraftDesk {
  const desk = useContext(Context);
  if (!desk) throw new Error("outside of a draft");
  return desk;
}

interface Props {
  readonly pipeline: string;
  readonly draft: Draft;
  readonly words: EditorWords;
  readonly first: DraftSurvey;
  readonly children: ReactNode;
}

/** Keeps the drawing of a draft up to date while its text changes. */
export function DraftProvider({ pipeline, draft, words, first, children }: Props) {
  const [share, setShare] = useState(1);
  const { text } = draft;
  const [started] = useState({ text, share: 1, value: first });
  const { survey, braid, drawn, failure } = useSurvey(text, share, started);
  const steps = useDrawnSteps(drawn, draft.edit);
  const desk: DraftDesk = {
    pipeline,
    draft,
    words,
    share,
    setShare,
    braid,
    drawn,
    steps,
    surveyed: survey.text,
    problems: failure ? [failure, ...survey.value.problems] : survey.value.problems,
    keys: survey.value.keys,
    reading: survey.text !== text || survey.share !== share,
  };
  return <Context.Provider value={desk}>{children}</Context.Provider>;
}
