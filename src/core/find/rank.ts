const LETTER_OR_DIGIT = /[\p{L}\p{N}]/u;

/** Whether a text has a word that begins so. */
function hasWordBeginning(text: string, beginning: string): boolean {
  for (let at = text.indexOf(beginning); at >= 0; at = text.indexOf(beginning, at + 1)) {
    if (at === 0 || !LETTER_OR_DIGIT.test(text[at - 1]!)) return true;
  }
  return false;
}

/** What was typed, made ready for many names. */
interface Typed {
  readonly whole: string;
  readonly words: readonly string[];
}

function readTyped(typed: string): Typed {
  const whole = typed.trim().toLowerCase();
  return { whole, words: whole.split(/\s+/) };
}

function fitOf(name: string, { whole, words }: Typed): number {
  if (whole === "") return 0.1;
  const said = name.toLowerCase();
  if (!words.every((word) => said.includes(word))) return 0;
  if (said === whole) return 1;
  if (said.startsWith(whole)) return 0.9;
  if (words.every((word) => hasWordBeginning(said, word))) return 0.8;
  return said.includes(whole) ? 0.6 : 0.5;
}

/**
 * How well a name fits what was typed: all of it, its beginning, the beginning of one of its words, or
 * somewhere in it. Every typed word must occur.
 */
export const fitOfName = (name: string, typed: string): number => fitOf(name, readTyped(typed));

/** Names that fit what was typed, the best first, shorter ones before longer; at most some. */
export function bestFits<Named extends { readonly name: string }>(
  all: readonly Named[],
  typed: string,
  most: number,
): readonly Named[] {
  const ready = readTyped(typed);
  return all
    .map((named) => ({ named, fit: fitOf(named.name, ready) }))
    .filter(({ fit }) => fit > 0)
    .sort((left, right) => right.fit - left.fit || left.named.name.length - right.named.name.length)
    .slice(0, most)
    .map(({ named }) => named);
}
