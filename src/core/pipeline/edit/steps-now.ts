import { readYaml } from "../yaml";
import type { StepPlace } from "./steps";

interface Step {
  /** Everything the step says, as text. */
  readonly content: string;
  readonly name: string | undefined;
}

/** The steps of a strand as values, in the order of the file; empty when there are none to be read. */
function stepsOf(text: string, strand: number): readonly Step[] {
  const file: unknown = readYaml(text).toJS();
  const steps: unknown = (file as { readonly strands?: readonly { readonly steps?: unknown }[] } | null)
    ?.strands?.[strand]?.steps;
  if (!Array.isArray(steps)) return [];
  return steps.map((step: unknown) => {
    const name = (step as { readonly name?: unknown } | null)?.name;
    return { content: JSON.stringify(step), name: typeof name === "string" ? name : undefined };
  });
}

/** Pairs positions of two lists whose keys agree: the first with the first of that key, the second with the second. */
function pairByKey(
  before: ReadonlyMap<number, string>,
  now: ReadonlyMap<number, string>,
): Map<number, number> {
  const free = new Map<string, number[]>();
  for (const [position, key] of now) free.set(key, [...(free.get(key) ?? []), position]);
  const pairs = new Map<number, number>();
  for (const [position, key] of before) {
    const found = free.get(key)?.shift();
    if (found !== undefined) pairs.set(position, found);
  }
  return pairs;
}

/** The keys of the steps whose positions are not taken; steps without a key are left out. */
function keysOf(
  steps: readonly Step[],
  taken: ReadonlySet<number>,
  key: (step: Step) => string | undefined,
): ReadonlyMap<number, string> {
  const keys = new Map<number, string>();
  for (const [position, step] of steps.entries()) {
    const found = taken.has(position) ? undefined : key(step);
    if (found !== undefined) keys.set(position, found);
  }
  return keys;
}

/**
 * Pairs the steps of two texts: equal ones, then those of the same name, then the rest in order if the lengths
 * agree.
 */
function pairSteps(before: readonly Step[], now: readonly Step[]): ReadonlyMap<number, number> {
  const pairs = new Map<number, number>();
  const pair = (key: (step: Step) => string | undefined): void => {
    const [left, right] = [new Set(pairs.keys()), new Set(pairs.values())];
    const found = pairByKey(keysOf(before, left, key), keysOf(now, right, key));
    for (const [position, place] of found) pairs.set(position, place);
  };
  pair(({ content }) => content);
  pair(({ name }) => name);
  if (before.length === now.length) pair(() => "");
  return pairs;
}

/**
 * Where the steps of a text are in a later one, after steps were moved, changed, added or removed.
 * @param before the text that places are of
 * @param now the text in which they are looked for
 * @returns the place in the later text; undefined when the step is no longer there
 */
export function stepsNow(before: string, now: string): (place: StepPlace) => StepPlace | undefined {
  if (before === now) return (place) => place;
  const strands = new Map<number, ReadonlyMap<number, number>>();
  return ({ strand, position }) => {
    const pairs = strands.get(strand) ?? pairSteps(stepsOf(before, strand), stepsOf(now, strand));
    strands.set(strand, pairs);
    const found = pairs.get(position);
    return found === undefined ? undefined : { strand, position: found };
  };
}
