import type { Searchable } from "@/core/learn/search/searchable";
import { formatNumber } from "@/core/format/numbers";
import type { RangeFile, SearchFile } from "@/core/pipeline/schema";

type Value = NonNullable<RangeFile["values"]>[number];

/** A number as a person types it, with a point or a comma; undefined where it is none. */
export function numberOf(text: string): number | undefined {
  const trimmed = text.trim().replace(",", ".");
  return trimmed === "" || Number.isNaN(Number(trimmed)) ? undefined : Number(trimmed);
}

const parts = (text: string, by: RegExp): readonly string[] =>
  text
    .split(by)
    .map((part) => part.trim())
    .filter((part) => part !== "");

const valueOf = (text: string): string | number => (Number.isNaN(Number(text)) ? text : Number(text));

/** The values that a text lists: numbers parted by commas or spaces; lists of numbers parted by semicolons. */
export function valuesTyped(text: string, kind: Searchable["kind"]): Value[] | undefined {
  const values =
    kind === "numbers"
      ? parts(text, /;/).map((list) => parts(list, /[\s,]+/).map(Number))
      : parts(text, /[\s,]+/).map(valueOf);
  return values.length === 0 ? undefined : values;
}

/** Values as a person types them. */
export const typedValues = (values: RangeFile["values"]): string =>
  (values ?? [])
    .map((value) => (Array.isArray(value) ? value.join(", ") : String(value)))
    .join(values?.some(Array.isArray) ? "; " : ", ");

/** A range that tries a setting in the way that suits it: all values of a choice, numbers as they are typed. */
export const freshRange = (searchable: Searchable | undefined, step?: string): RangeFile => ({
  setting: searchable?.setting ?? "",
  scale: "linear",
  whole: false,
  ...(step === undefined ? {} : { step }),
  ...(searchable?.kind === "choice" ? { values: [...searchable.choices] } : {}),
});

function boundsWords({ least, most }: Searchable): string {
  if (least !== undefined && most !== undefined)
    return `between ${formatNumber(least)} and ${formatNumber(most)}`;
  return least === undefined ? `at most ${formatNumber(most)}` : `at least ${formatNumber(least)}`;
}

function numberMistake(value: unknown, searchable: Searchable): string | undefined {
  if (typeof value !== "number" || Number.isNaN(value)) return `“${String(value)}” is not a number.`;
  const { least = -Infinity, most = Infinity, kind } = searchable;
  if (value < least || value > most)
    return `${formatNumber(value)} is out of range: ${searchable.setting} is ${boundsWords(searchable)}.`;
  return kind === "whole" && !Number.isInteger(value)
    ? `${searchable.setting} takes whole numbers only.`
    : undefined;
}

/** What is wrong with a range, in words of the form; undefined where it can be tried. */
export function rangeMistake(
  range: RangeFile,
  searchable: Searchable | undefined,
  how: SearchFile["how"],
): string | undefined {
  if (!searchable) return "Choose a setting.";
  const { values, from, to, scale } = range;
  if (searchable.kind === "choice")
    return values && values.length > 0 ? undefined : "Tick the values to try.";
  if (values) {
    const listed = searchable.kind === "numbers" ? values.flat() : values;
    const own = searchable.kind === "numbers" ? { ...searchable, kind: "number" as const } : searchable;
    return listed.map((value) => numberMistake(value, own)).find((mistake) => mistake !== undefined);
  }
  if (searchable.kind === "numbers") return "Give lists of numbers, such as 8; 16, 8.";
  if (how === "grid") return "Enter the values to try; a grid search needs them.";
  if (from === undefined || to === undefined) return "Give values, or a range from … to ….";
  if (!(from < to)) return "“From” has to be smaller than “to”.";
  if (scale === "log" && from <= 0) return "On a logarithmic scale “from” has to be above 0.";
  return [from, to]
    .map((value) => numberMistake(value, { ...searchable, kind: "number" }))
    .find((mistake) => mistake !== undefined);
}
