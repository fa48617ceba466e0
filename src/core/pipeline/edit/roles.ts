import { failure, problem, success, type Result } from "../../problem";
import type { TargetKind } from "../schema";
import { changePart, valueIn } from "./parts";

/** What a column can be made, but for the answer, which has a kind besides. */
export const GIVEN_ROLES = ["feature", "key", "time", "group", "weight", "excluded"] as const;
export type GivenRole = (typeof GIVEN_ROLES)[number];

type Excluded = readonly { readonly column: string; readonly because: string }[];
type Edit = readonly [path: readonly ["roles", string], value: unknown];

const SINGLE = ["time", "group", "weight"] as const;

const listAt = <T>(text: string, name: string): readonly T[] => {
  const value = valueIn(text, ["roles", name]);
  return Array.isArray(value) ? (value as readonly T[]) : [];
};

function applied(text: string, edits: readonly Edit[]): Result<string> {
  let now = text;
  for (const [path, value] of edits) {
    const changed = changePart(now, path, value);
    if (!changed.ok) return changed;
    now = changed.value;
  }
  return success(now);
}

/**
 * Gives a column a role. The key grows by it; time, group and weight have one column each; a feature and a column that is left out have
 * no other role. Refused where the pipeline would be left without a key or an answer.
 */
export function giveRole(text: string, column: string, role: GivenRole): Result<string> {
  const key = listAt<string>(text, "key");
  const excluded = listAt<Excluded[number]>(text, "exclude");
  const others = excluded.filter((entry) => entry.column !== column);
  const isExcluded = others.length < excluded.length;
  const exclude = (list: Excluded): Edit => [["roles", "exclude"], list.length > 0 ? list : undefined];
  switch (role) {
    case "key":
      return applied(text, [
        [["roles", "key"], key.includes(column) ? key : [...key, column]],
        ...(isExcluded ? [exclude(others)] : []),
      ]);
    case "time":
    case "group":
    case "weight":
      return applied(text, [[["roles", role], column], ...(isExcluded ? [exclude(others)] : [])]);
    default: {
      if (valueIn(text, ["roles", "target", "column"]) === column)
        return failure(
          problem("role_clash", `"${column}" is the target.`, "Make another column the target first."),
        );
      const rest = key.filter((name) => name !== column);
      if (rest.length === 0)
        return failure(
          problem("role_clash", `"${column}" is the whole key.`, "Make another column the key first."),
        );
      const freed = SINGLE.filter((name) => valueIn(text, ["roles", name]) === column).map((name): Edit => [
        ["roles", name],
        undefined,
      ]);
      return applied(text, [
        ...(rest.length < key.length ? [[["roles", "key"], rest] as const] : []),
        ...freed,
        ...(role === "excluded" ? [exclude([...others, { column, because: "excluded for now" }])] : []),
        ...(role === "feature" && isExcluded ? [exclude(others)] : []),
      ]);
    }
  }
}

/** What the answer is: its column, its kind, and for yes or no the value that counts as positive. */
export interface TargetChoice {
  readonly column: string;
  readonly kind: TargetKind;
  readonly positive?: string | number | boolean | undefined;
}

/** Makes a column the answer. The one that was becomes a feature, unless something else is said of it. */
export function giveTarget(text: string, { column, kind, positive }: TargetChoice): Result<string> {
  const excluded = listAt<Excluded[number]>(text, "exclude");
  const others = excluded.filter((entry) => entry.column !== column);
  const freed = SINGLE.filter((name) => valueIn(text, ["roles", name]) === column).map((name): Edit => [
    ["roles", name],
    undefined,
  ]);
  return applied(text, [
    [["roles", "target"], { column, kind, ...(positive === undefined ? {} : { positive }) }],
    ...freed,
    ...(others.length < excluded.length
      ? [[["roles", "exclude"], others.length > 0 ? others : undefined] as const]
      : []),
  ]);
}
