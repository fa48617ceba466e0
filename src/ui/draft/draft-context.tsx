"use client";
import { createContext, useContext, useEffect, useRef, useState, type ReactNode } from "react";
import type { Braid } from "@/core/plan/braid";
import type { Problem } from "@/core/problem";
import type { DraftSurvey } from "@/runs/draft/survey";
import { postJson } from "../basic/fetch-json";
import type { EditorWords } from "@/server/editor-words";
import type { Draft } from "./use-draft";

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
  readonly problems: readonly Problem[];
  readonly keys: DraftSurvey["keys"];
  /** The text that braid, problems and keys belong to. */
  readonly surveyed: string;
  readonly reading: boolean;
}

const Context = createContext<DraftDesk | undefined>(undefined);

export function useDesk(): DraftDesk {
  const desk = useContext(Context);
  if (!desk) throw new Error("outside of a draft");
  return desk;
}

const PAUSE_MILLISECONDS = 90;

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
  const [survey, setSurvey] = useState({ text: draft.text, share: 1, value: first });
  const [drawn, setDrawn] = useState(first.braid);
  const [failure, setFailure] = useState<Problem>();
  const { text } = draft;
  const current = useRef(survey);
  current.current = survey;
  useEffect(() => {
    if (current.current.text === text && current.current.share === share) return undefined;
    const stop = new AbortController();
    const timer = setTimeout(() => {
      postJson<DraftSurvey>("/api/draft/survey", { text, share }, stop.signal).then(
        (value) => {
          setSurvey({ text, share, value });
          if (value.braid) setDrawn(value.braid);
          setFailure(undefined);
        },
        (error: unknown) => {
          if (!stop.signal.aborted)
            setFailure({
              code: "unreachable",
              severity: "error",
              message: `The draft could not be checked. ${error instanceof Error ? error.message : String(error)}`,
              hint: "It is checked again at the next change.",
            });
        },
      );
    }, PAUSE_MILLISECONDS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [text, share]);
  const desk: DraftDesk = {
    pipeline,
    draft,
    words,
    share,
    setShare,
    braid: survey.value.braid ?? drawn,
    surveyed: survey.text,
    problems: failure ? [failure, ...survey.value.problems] : survey.value.problems,
    keys: survey.value.keys,
    reading: survey.text !== text || survey.share !== share,
  };
  return <Context.Provider value={desk}>{children}</Context.Provider>;
}
