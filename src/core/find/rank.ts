/** How well a name fits what was typed: all of it, its beginning, the beginning of one of its words, or somewhere in it. Every typed word must occur. */
export function fitOfName(name: string, typed: string): number {
  const [said, wanted] = [name.toLowerCase(), typed.trim().toLowerCase()];
  if (wanted === "") return 0.1;
  const words = wanted.split(/\s+/);
  if (!words.every((word) => said.includes(word))) return 0;
  if (said === wanted) return 1;
  if (said.startsWith(wanted)) return 0.9;
  const parts = said.split(/[^\p{L}\p{N}]+/u);
  if (words.every((word) => parts.some((part) => part.startsWith(word)))) return 0.8;
  return said.includes(wanted) ? 0.6 : 0.5;
}

/** Names that fit what was typed, the best first, shorter ones before longer; at most some. */
export function bestFits<Named extends { readonly name: string }>(
  all: readonly Named[],
  typed: string,
  most: number,
): readonly Named[] {
  return all
    .map((named) => ({ named, fit: fitOfName(named.name, typed) }))
    .filter(({ fit }) => fit > 0)
    .toSorted((left, right) => right.fit - left.fit || left.named.name.length - right.named.name.length)
    .slice(0, most)
    .map(({ named }) => named);
}
