import type { Family } from "@/core/value-type";

/** One thing to choose from. */
export type Choice = readonly [value: string | number | boolean, label: string];

/** One form that a setting can have. */
export interface Part {
  readonly label: string;
  /** How it is written: a word, something asked for, or several things asked for; with a key, as `{key: ...}`. */
  readonly is:
    | { readonly value: string }
    | { readonly key?: string; readonly input: Input; readonly initial: unknown }
    | {
        readonly key?: string;
        readonly fields: readonly Field[];
        readonly initial: Readonly<Record<string, unknown>>;
      };
}

/** What a setting is asked with. */
export type Input =
  | { readonly as: "text"; readonly example?: string }
  | { readonly as: "number"; readonly whole?: boolean }
  /** A number where it is one, else a text. */
  | { readonly as: "constant" }
  | { readonly as: "yes" }
  | { readonly as: "choice"; readonly choices: readonly Choice[] }
  | { readonly as: "choices"; readonly choices: readonly Choice[] }
  /** Columns before the step; `there`: of the strand named by the setting "with". */
  | { readonly as: "column"; readonly there?: string; readonly families?: readonly Family[] }
  | { readonly as: "columns"; readonly there?: string; readonly families?: readonly Family[] }
  | { readonly as: "words" }
  | { readonly as: "numbers" }
  | { readonly as: "strand" }
  | { readonly as: "strands" }
  | { readonly as: "order" }
  | { readonly as: "expression"; readonly with?: string }
  | { readonly as: "select" }
  /** New column: expression. */
  | { readonly as: "expressions"; readonly aggregate?: boolean }
  /** Column here: something. */
  | { readonly as: "by column"; readonly value: Input; readonly initial: string }
  | { readonly as: "join columns" }
  | { readonly as: "values of"; readonly column: string }
  | { readonly as: "map of"; readonly column: string }
  | { readonly as: "regions" }
  /** Left out, or one of several forms. */
  | { readonly as: "variant"; readonly parts: readonly Part[]; readonly absent?: string };

/** A setting of a step and how it is asked for. */
export type Field = Input & {
  readonly name: string;
  readonly label?: string;
};

/** The settings a kind of step asks for, in the order of its form. */
export type Form = readonly Field[];
