import { formatNumber } from "./numbers";

/** Words in a list of at most some, with how many more there are: "a, b and 3 more". */
export function someOf(words: readonly string[], most: number): string {
  const left = words.length - most;
  return words.slice(0, most).join(", ") + (left > 0 ? ` and ${formatNumber(left)} more` : "");
}

/** Names in quotes, at most some of them, with how many more there are. */
export const someNames = (names: readonly string[], most = 5): string =>
  someOf(
    names.map((name) => `"${name}"`),
    most,
  );
