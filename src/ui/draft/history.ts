/** A text with everything it was before, and everything that was undone. */
export interface TextHistory {
  readonly text: string;
  readonly past: readonly string[];
  readonly future: readonly string[];
  /** When the newest change came, in milliseconds, while it may still grow. */
  readonly growing?: number | undefined;
}

/** Keystrokes within this time are undone together. */
const TOGETHER_MILLISECONDS = 1200;

export const startHistory = (text: string): TextHistory => ({ text, past: [], future: [] });

/**
 * A change. One that is typed joins the change before it when that was typed just now.
 * @param typedAt milliseconds, for changes that come key by key; left out for whole changes
 */
export function changed(history: TextHistory, text: string, typedAt?: number): TextHistory {
  if (text === history.text) return history;
  const joins =
    typedAt !== undefined &&
    history.growing !== undefined &&
    typedAt - history.growing < TOGETHER_MILLISECONDS;
  return { text, past: joins ? history.past : [...history.past, history.text], future: [], growing: typedAt };
}

export function undone(history: TextHistory): TextHistory {
  const before = history.past.at(-1);
  return before === undefined
    ? history
    : { text: before, past: history.past.slice(0, -1), future: [history.text, ...history.future] };
}

export function redone(history: TextHistory): TextHistory {
  const [next, ...future] = history.future;
  return next === undefined ? history : { text: next, past: [...history.past, history.text], future };
}
