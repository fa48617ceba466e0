import { createHash } from "node:crypto";
import type { Compiled } from "./compiled";
import { ConditionError } from "./failure";
import { castTo, strict } from "./operators";
import { concatText, isWhole, type Type, type Value } from "./values";

type Make = (args: readonly Compiled[]) => Compiled;

/** A function of texts, and of whole numbers beside them. */
const ofTexts =
  (type: Type, compute: (...values: readonly never[]) => Value): Make =>
  (args) => {
    const parts = args.map((arg) => (isWhole(arg.type) ? arg : castTo(arg, "text")));
    const plain = parts.map((part): Compiled => ({
      ...part,
      at: (place) => {
        const value = part.at(place);
        return typeof value === "bigint" ? Number(value) : value;
      },
    }));
    return { type, at: strict(plain, (...values) => compute(...(values as never[]))) };
  };

const points = (text: string): readonly string[] => [...text];

function sliced(text: string, start: number, count: number): string {
  if (count < 0) throw new ConditionError("substring error");
  const from = Math.max(1, start);
  return points(text)
    .slice(from - 1, Math.max(from - 1, start + count - 1))
    .join("");
}

const stripped = (text: string, characters: string, ends: "start" | "end" | "both"): string => {
  const taken = new Set(points(characters));
  const all = points(text);
  let [from, to] = [0, all.length];
  while (ends !== "end" && from < to && taken.has(all[from]!)) from += 1;
  while (ends !== "start" && to > from && taken.has(all[to - 1]!)) to -= 1;
  return all.slice(from, to).join("");
};

function partOf(text: string, delimiter: string, place: number): string {
  if (place === 0) throw new ConditionError("invalid parameter value");
  const parts = delimiter === "" ? [text] : text.split(delimiter);
  return (place > 0 ? parts[place - 1] : parts.at(place)) ?? "";
}

/** Letters one by one: one that becomes several stays. */
const mapped = (text: string, change: (letter: string) => string): string =>
  points(text)
    .map((letter) => (points(change(letter)).length === 1 ? change(letter) : letter))
    .join("");

/** A pattern of the regular expressions that both know. */
function patternOf(pattern: string): RegExp {
  const classes = {
    alnum: "\\p{L}\\p{N}",
    alpha: "\\p{L}",
    digit: "\\p{N}",
    space: "\\s",
    upper: "\\p{Lu}",
    lower: "\\p{Ll}",
  };
  const written = Object.entries(classes).reduce(
    (text, [name, letters]) => text.replaceAll(`[:${name}:]`, letters),
    pattern.replace(/^\(\?i\)/, ""),
  );
  const boundaries = written
    .replaceAll("\\m", "\\b(?=[\\p{L}\\p{N}_])")
    .replaceAll("\\M", "\\b(?<=[\\p{L}\\p{N}_])")
    .replaceAll("\\y", "\\b");
  return new RegExp(boundaries, pattern.startsWith("(?i)") ? "ius" : "us");
}

/** Functions of texts, by name. */
export const TEXT_FUNCTIONS: Readonly<Record<string, Make>> = {
  lower: ofTexts("text", (text: string) => mapped(text, (letter) => letter.toLowerCase())),
  upper: ofTexts("text", (text: string) => mapped(text, (letter) => letter.toUpperCase())),
  btrim: ofTexts("text", (text: string, of = " ") => stripped(text, of, "both")),
  ltrim: ofTexts("text", (text: string, of = " ") => stripped(text, of, "start")),
  rtrim: ofTexts("text", (text: string, of = " ") => stripped(text, of, "end")),
  length: ofTexts("integer", (text: string) => BigInt(points(text).length)),
  left: ofTexts("text", (text: string, count: number) => points(text).slice(0, count).join("")),
  right: ofTexts("text", (text: string, count: number) => {
    const all = points(text);
    return all.slice(count >= 0 ? Math.max(0, all.length - count) : -count).join("");
  }),
  substr: ofTexts("text", (text: string, start: number, count = Infinity) => sliced(text, start, count)),
  replace: ofTexts("text", (text: string, from: string, to: string) =>
    from === "" ? text : text.replaceAll(from, () => to),
  ),
  split_part: ofTexts("text", partOf),
  strpos: ofTexts("integer", (text: string, part: string) => {
    const at = text.indexOf(part);
    return at < 0 ? 0n : BigInt(points(text.slice(0, at)).length + 1);
  }),
  starts_with: ofTexts("boolean", (text: string, part: string) => text.startsWith(part)),
  regexp_group: ofTexts(
    "text",
    (text: string, pattern: string, group: number) => patternOf(pattern).exec(text)?.[group] ?? null,
  ),
  md5: ofTexts("text", (text: string) => createHash("md5").update(text).digest("hex")),
  hex_to_bigint: ofTexts("bigint", (text: string) => BigInt(`0x${text}`)),
  concat: (args) => ({
    type: "text",
    at: (place) =>
      args
        .map((arg) => {
          const value = arg.at(place);
          return value === null ? "" : concatText(arg.type, value);
        })
        .join(""),
  }),
};
