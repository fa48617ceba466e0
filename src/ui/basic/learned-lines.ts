import { formatNumber } from "@/core/format/numbers";

/** One learned value, by the way to it. */
export interface LearnedLine {
  readonly path: string;
  readonly value: string;
}

/** Longest list that is told value by value. */
const MOST_IN_LIST = 40;

const told = (value: unknown): string => {
  if (value === null) return "nothing: all missing in the training rows";
  if (typeof value === "number") return formatNumber(value);
  return String(value);
};

/** An entry of a list, under the name it has itself where it has one: a term, a category. */
function listed(entry: unknown, index: number, path: readonly string[]): readonly LearnedLine[] {
  const [first, ...others] =
    typeof entry === "object" && entry !== null && !Array.isArray(entry)
      ? Object.entries(entry as Readonly<Record<string, unknown>>)
      : [];
  if (!first || typeof first[1] !== "string") return learnedLines(entry, [...path, String(index + 1)]);
  return [
    {
      path: [...path, first[1]].join(", "),
      value: others.map(([name, value]) => `${name} ${told(value)}`).join(", "),
    },
  ];
}

/** Learned values of any step as lines: "weight_g" and its value, "force_n, 104" and its centre and spread. */
export function learnedLines(value: unknown, path: readonly string[] = []): readonly LearnedLine[] {
  if (typeof value !== "object" || value === null) return [{ path: path.join(", "), value: told(value) }];
  if (Array.isArray(value)) {
    const plain = value.every((entry) => typeof entry !== "object" || entry === null);
    if (!plain) return value.flatMap((entry: unknown, index) => listed(entry, index, path));
    return [
      {
        path: path.join(", "),
        value: `${value.length}: ${value.slice(0, MOST_IN_LIST).map(told).join(", ")}${value.length > MOST_IN_LIST ? " …" : ""}`,
      },
    ];
  }
  const entries = Object.entries(value as Readonly<Record<string, unknown>>);
  // A few plain values about one thing read best in one line.
  if (
    path.length > 0 &&
    entries.length > 1 &&
    entries.length <= 4 &&
    entries.every(([, value]) => typeof value !== "object" || value === null)
  ) {
    return [
      { path: path.join(", "), value: entries.map(([name, value]) => `${name} ${told(value)}`).join(", ") },
    ];
  }
  // The outermost names are the step's own, not the data's.
  return entries.flatMap(([name, value]) =>
    learnedLines(
      value,
      path.length === 0 && ["values", "columns", "levels"].includes(name) ? [] : [...path, name],
    ),
  );
}
