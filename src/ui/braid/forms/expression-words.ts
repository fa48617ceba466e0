import type { CompletionContext, CompletionResult } from "@codemirror/autocomplete";
import type { Diagnostic } from "@codemirror/lint";
import type { Text } from "@codemirror/state";
import { writeColumnName } from "@/core/expression/column-name";
import type { Problem } from "@/core/problem";
import type { EditorWords } from "@/server/editor-words";
import type { ColumnHere } from "../places";

/** What can be completed in an expression. */
export interface OfferedWords {
  readonly columns: readonly ColumnHere[];
  /** The other strand of a join. */
  readonly other: { readonly strand: string; readonly columns: readonly ColumnHere[] } | undefined;
  readonly functions: EditorWords["functions"];
}

/** Columns here first, then those of the other strand, then functions. */
export function completeExpression(
  context: CompletionContext,
  { columns, other, functions }: OfferedWords,
): CompletionResult | null {
  const word = context.matchBefore(/[\w"]*/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  const strand = other?.strand ?? "";
  return {
    from: word.from,
    options: [
      ...columns
        .filter(({ bundle }) => !bundle)
        .map(({ name, type }) => ({
          label: name,
          apply: writeColumnName(name),
          detail: type,
          type: "variable",
          boost: 2,
        })),
      ...(other?.columns ?? []).map(({ name, type }) => ({
        label: `${strand}.${name}`,
        apply: `${writeColumnName(strand)}.${writeColumnName(name)}`,
        detail: type,
        type: "variable",
        boost: 1,
      })),
      ...functions.map(({ name, usage }) => ({
        label: name,
        apply: `${name}(`,
        detail: usage,
        type: "function",
      })),
    ],
  };
}

/** Problems at their places in the text: the word that begins there is marked. */
export const marksOf = (problems: readonly Problem[], text: Text): Diagnostic[] =>
  problems.flatMap(({ location, message }): Diagnostic[] => {
    const offset = location?.offset;
    if (offset === undefined || offset > text.length) return [];
    const word = /^"[^"]*"|^\w+/.exec(text.sliceString(offset))?.[0] ?? "";
    const to = Math.min(text.length, offset + Math.max(1, word.length));
    return [{ from: offset, to, severity: "error", message }];
  });
