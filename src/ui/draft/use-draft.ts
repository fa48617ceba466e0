"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import type { Result } from "@/core/problem";
import { saveDraft, throwDraftAway } from "@/server/actions";
import { keepBothTexts } from "@/server/draft-actions";
import { changed, redone, undone } from "./history";
import { useHistory } from "./use-history";

/** A draft as the server keeps it. */
export interface StoredDraft {
  readonly text: string;
  readonly revision: number;
  readonly basedOn: number;
}

/** What somebody else kept while this draft was being changed here. */
export interface Meanwhile {
  readonly text: string;
  readonly revision: number;
  readonly at: string;
}

export type Keeping = "no changes" | "keeping" | "kept" | "not saved";

export interface Draft {
  readonly text: string;
  /** The text with every edit, those that are not yet drawn too. */
  readonly latest: () => string;
  readonly keeping: Keeping;
  /** Whether it differs from the newest version. */
  readonly changed: boolean;
  readonly meanwhile: Meanwhile | undefined;
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  /** Puts a whole new text in; `typed` when it comes key by key. */
  readonly put: (text: string, typed?: boolean) => void;
  /** Changes the text by an edit; what is in the way is said, and nothing changes. Gives whether it changed. */
  readonly edit: (change: (text: string) => Result<string>) => boolean;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Goes on with one text after two people have changed the draft; both are kept before. */
  readonly settle: (text: string) => Promise<void>;
  /** Back to the newest version. */
  readonly throwAway: () => Promise<void>;
}

const PAUSE_MILLISECONDS = 600;
/** After a failure it is tried again. */
const AGAIN_MILLISECONDS = 3000;

/** The working text of a pipeline: every change can be undone, and is kept on the server shortly after it is made. */
export function useDraft(
  pipeline: string,
  version: { readonly number: number; readonly text: string },
  stored: StoredDraft | undefined,
): Draft {
  const [history, setHistory, noteSaved] = useHistory(pipeline, stored?.text ?? version.text);
  const [keeping, setKeeping] = useState<Keeping>(stored ? "kept" : "no changes");
  const [meanwhile, setMeanwhile] = useState<Meanwhile>();
  const revision = useRef(stored?.revision ?? 0);
  const keptText = useRef(stored?.text ?? version.text);
  const newest = useRef(version.number);
  const { text } = history;
  const latest = useRef(history);
  latest.current = history;

  // A version that was just saved from this very text is what later changes are compared with.
  useEffect(() => {
    if (newest.current === version.number) return;
    newest.current = version.number;
    revision.current = 0;
    keptText.current = version.text;
    noteSaved(version.text);
    if (latest.current.text === version.text) setKeeping("no changes");
  }, [noteSaved, version.number, version.text]);

  const running = useRef<Promise<void>>(undefined);
  const throwing = useRef(false);
  // Counts finished tries, so that a text that changed (or was undone) meanwhile is looked at again.
  const [tries, setTries] = useState(0);
  useEffect(() => {
    if (meanwhile || running.current || throwing.current) return undefined;
    if (text === keptText.current) {
      setKeeping(revision.current === 0 ? "no changes" : "kept");
      return undefined;
    }
    setKeeping((now) => (now === "not saved" ? now : "keeping"));
    const keep = async (): Promise<void> => {
      const outcome = await saveDraft({
        pipeline,
        text,
        basedOn: version.number,
        revision: revision.current,
      }).catch(() => undefined);
      running.current = undefined;
      if (!outcome?.ok) {
        setKeeping("not saved");
        setTimeout(() => setTries((now) => now + 1), AGAIN_MILLISECONDS);
        return;
      }
      if ("meanwhile" in outcome.value) {
        setMeanwhile(outcome.value.meanwhile);
        setKeeping("not saved");
        return;
      }
      revision.current = outcome.value.revision;
      keptText.current = text;
      noteSaved(text);
      setTries((now) => now + 1);
    };
    const timer = setTimeout(() => {
      // The page may have gone on to another text, and not yet have cleared up after this one.
      if (!throwing.current && latest.current.text === text) running.current = keep();
    }, PAUSE_MILLISECONDS);
    return () => clearTimeout(timer);
  }, [pipeline, text, version.number, meanwhile, tries, noteSaved]);

  useEffect(() => {
    if (keeping !== "keeping" && keeping !== "not saved") return undefined;
    const warn = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [keeping]);

  const put = useCallback(
    (next: string, typed = false) => setHistory((now) => changed(now, next, typed ? Date.now() : undefined)),
    [setHistory],
  );
  const edit = useCallback(
    (change: (text: string) => Result<string>): boolean => {
      const result = change(latest.current.text);
      if (!result.ok) {
        for (const found of result.problems) toast.error(found.message, { description: found.hint });
        return false;
      }
      // The next edit may come before this one is drawn.
      latest.current = changed(latest.current, result.value);
      setHistory((now) => changed(now, result.value));
      return true;
    },
    [setHistory],
  );
  return {
    text,
    latest: useCallback(() => latest.current.text, []),
    keeping,
    meanwhile,
    put,
    edit,
    changed: text !== version.text,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    undo: useCallback(() => setHistory(undone), [setHistory]),
    redo: useCallback(() => setHistory(redone), [setHistory]),
    settle: async (chosen) => {
      if (!meanwhile) return;
      const both = { pipeline, basedOn: version.number, mine: latest.current.text, theirs: meanwhile.text };
      const kept = await keepBothTexts(both).catch(() => undefined);
      if (!kept?.ok) {
        toast.error("The two texts could not be saved, so nothing was changed.", {
          description: "Try again in a moment.",
        });
        return;
      }
      revision.current = meanwhile.revision;
      keptText.current = meanwhile.text;
      noteSaved(meanwhile.text);
      setHistory((now) => changed(now, chosen));
      setMeanwhile(undefined);
    },
    throwAway: async () => {
      // A change that is just being kept would bring the draft back after it was thrown away.
      throwing.current = true;
      await running.current;
      const outcome = await throwDraftAway(pipeline).catch(() => undefined);
      throwing.current = false;
      if (!outcome?.ok) {
        setTries((now) => now + 1);
        return;
      }
      revision.current = 0;
      keptText.current = version.text;
      noteSaved(version.text);
      latest.current = changed(latest.current, version.text);
      setHistory((now) => changed(now, version.text));
      setMeanwhile(undefined);
      setKeeping("no changes");
    },
  };
}
