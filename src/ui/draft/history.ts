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

/** Characters of earlier and undone texts that are kept: a browser keeps about five million for a site. */
const MOST_CHARACTERS = 2_000_000;

/** A history as a tab keeps it, with the text that the server had when it was kept. */
export interface KeptHistory extends TextHistory {
  readonly saved: string;
}

/** A history as it is kept beyond the page: as much of it as there is room for, what is nearest to now first. */
export function storable({ text, past, future }: TextHistory, most = MOST_CHARACTERS): TextHistory {
  let room = most - text.length;
  const fitting = (texts: readonly string[]): readonly string[] =>
    texts.filter((earlier) => {
      room -= earlier.length;
      return room >= 0;
    });
  // Of what was there before, the newest stand last.
  const kept = [...fitting([...past].reverse())].reverse();
  return { text, past: kept, future: fitting(future) };
}

/**
 * A history that was kept, for the text that the server has now. What the tab had not yet saved goes on; where
 * something else has changed the server's text meanwhile (a form, another tab), that is one more change, which
 * can be undone too.
 */
export function restored(kept: unknown, text: string): TextHistory {
  if (!isHistory(kept)) return startHistory(text);
  const history = { text: kept.text, past: kept.past, future: kept.future };
  return kept.saved === text ? history : changed(history, text);
}

const areTexts = (value: unknown): boolean =>
  Array.isArray(value) && value.every((text) => typeof text === "string");

function isHistory(value: unknown): value is KeptHistory {
  if (typeof value !== "object" || value === null) return false;
  const { text, past, future, saved } = value as Partial<Record<keyof KeptHistory, unknown>>;
  return areTexts([text, saved]) && areTexts(past) && areTexts(future);
}
