"use client";
import { useCallback, useState } from "react";
import { problem } from "@/core/problem";
import type { Outcome } from "@/server/answer/action";

/** A change that was asked of the server, with an answer also when none came: a lost connection is a problem to show. */
export async function askForChange<T>(act: () => Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    return await act();
  } catch {
    return {
      ok: false,
      problems: [
        problem(
          "no_answer",
          "The server did not respond, so the change may not have been saved.",
          "Try again. If it persists, check that Ravlen is running.",
        ),
      ],
    };
  }
}

/** Whether a change is under way, and how to ask for one. Whatever becomes of it, the form can be used again afterwards. */
export function useAction(): readonly [
  busy: boolean,
  ask: <T>(act: () => Promise<Outcome<T>>) => Promise<Outcome<T>>,
] {
  const [busy, setBusy] = useState(false);
  const ask = useCallback(async <T>(act: () => Promise<Outcome<T>>): Promise<Outcome<T>> => {
    setBusy(true);
    try {
      return await askForChange(act);
    } finally {
      setBusy(false);
    }
  }, []);
  return [busy, ask];
}
