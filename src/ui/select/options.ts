import type { ReactNode } from "react";

/** Something that can be chosen. */
export interface SelectOption<Value extends string = string> {
  readonly value: Value;
  /** How it is shown; its value where there is none. */
  readonly label?: string;
  /** The heading it stands under. */
  readonly group?: string;
  readonly disabled?: boolean;
  /** A small picture of it, shown in the open list. */
  readonly mark?: ReactNode;
}

/** Options as they are given: a bare value is shown as it is. */
export type GivenOption<Value extends string = string> = Value | SelectOption<Value>;

/** Number of options beyond which a list can be searched. */
export const MOST_WITHOUT_SEARCH = 15;

/** Options in full. @param given values, or options with labels */
export const fullOptions = <Value extends string>(
  given: readonly GivenOption<Value>[],
): readonly SelectOption<Value>[] =>
  given.map((option) => (typeof option === "string" ? { value: option } : option));

/** Options from labels by value. */
export const labelledOptions = <Value extends string>(
  labels: Readonly<Record<Value, string>>,
): readonly SelectOption<Value>[] =>
  Object.entries<string>(labels).map(([value, label]) => ({ value: value as Value, label }));

/** Options from pairs of a value and its label. */
export const pairedOptions = <Value extends string>(
  pairs: readonly (readonly [value: Value, label: string])[],
): readonly SelectOption<Value>[] => pairs.map(([value, label]) => ({ value, label }));

/** How an option is shown. */
export const labelOf = ({ value, label }: SelectOption): string => label ?? value;

/**
 * Options in which every typed word occurs, in the label, the value or the heading, in any case of letters.
 *
 * @param typed words separated by spaces; empty finds all
 */
export function findOptions<Option extends SelectOption>(
  options: readonly Option[],
  typed: string,
): readonly Option[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return options.filter((option) => {
    const text = `${labelOf(option)} ${option.value} ${option.group ?? ""}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}
