import { md5 } from "../hash";
import type { CheckedPlan, CheckedStrand } from "./plan";

/** Settings that do not change what a step does. */
const WORDS_ONLY: readonly string[] = ["name", "note"];

/**
 * A key for each place of a strand (before its first step, after each step): equal keys mean equal rows there, as long
 * as sources and the time of the run are the same. Names and notes have no part in it.
 */
export function placeKeys(plan: CheckedPlan): (strand: string, after: number) => string {
  const known = new Map<string, readonly string[]>();
  const { file } = plan;
  const learning = JSON.stringify([
    file.rows,
    file.roles.key,
    file.roles.target,
    file.roles.group,
    file.roles.time,
    file.holdout,
  ]);
  const keysOf = (strand: CheckedStrand): readonly string[] => {
    const earlier = known.get(strand.name);
    if (earlier) return earlier;
    const used = (name: string): string => {
      const other = plan.strands.find((strand) => strand.name === name);
      return other ? (keysOf(other).at(-1) ?? "") : "";
    };
    const start =
      strand.from.kind === "table"
        ? [strand.from.source, [...strand.start.values()].map((column) => [column.name, column.type])]
        : used(strand.from.name);
    const keys = [md5(JSON.stringify([plan.share, start]))];
    for (const [position, { step }] of strand.steps.entries()) {
      const settings = Object.fromEntries(
        Object.entries(step.settings as Readonly<Record<string, unknown>>).filter(
          ([name]) => !WORDS_ONLY.includes(name),
        ),
      );
      // What is learned depends on which rows train, and those on the whole way up to the first learning step.
      const learned = strand === plan.main && position >= plan.learnsFrom ? learning : "";
      keys.push(md5(JSON.stringify([keys[position], settings, step.strands.map(used), learned])));
    }
    known.set(strand.name, keys);
    return keys;
  };
  return (strand, after) => {
    const found = plan.strands.find((oneStrand) => oneStrand.name === strand);
    return found ? (keysOf(found)[after] ?? "") : "";
  };
}
