import type {
  Completion,
  CompletionContext,
  CompletionResult,
  CompletionSource,
} from "@codemirror/autocomplete";
import type { EditorWords } from "@/server/editor-words";
import { columnsOfFile, type OfferedColumn } from "./columns-of-tables";

const DO_LINE = /^\s*(?:-\s+)?do:\s*[\w]*$/;
const FROM_LINE = /^\s*(?:-\s+)?from:\s*["\w.]*$/;
const KEY_LINE = /^\s*(?:-\s+)?[\w]*$/;

/** The kind of the step that a line belongs to, found by looking upwards. */
function stepAround(context: CompletionContext): string | undefined {
  const { state, pos } = context;
  for (let number = state.doc.lineAt(pos).number; number > 0; number -= 1) {
    const { text } = state.doc.line(number);
    const found = /^\s*-?\s*do:\s*(\w+)/.exec(text);
    if (found) return found[1];
    if (/^\S/.test(text) && !text.startsWith("-")) return undefined;
    if (/^\s*steps:/.test(text)) return undefined;
  }
  return undefined;
}

/**
 * Completion for the pipeline file: kinds after "do:", tables after "from:", settings as keys, columns and
 * functions as words.
 * @param columnsIn the columns of the tables that a file begins with
 */
export function completionOf(
  words: EditorWords,
  columnsIn: (text: string) => Promise<readonly OfferedColumn[]> = columnsOfFile,
): CompletionSource {
  return async (context: CompletionContext): Promise<CompletionResult | null> => {
    const line = context.state.doc.lineAt(context.pos);
    const before = line.text.slice(0, context.pos - line.from);
    const word = context.matchBefore(/[\w."]*/);
    const from = word?.from ?? context.pos;
    if (DO_LINE.test(before))
      return {
        from,
        options: words.steps.map((step): Completion => ({
          label: step.kind,
          detail: step.title,
          type: "keyword",
        })),
      };
    if (FROM_LINE.test(before))
      return { from, options: words.tables.map((table): Completion => ({ label: table, type: "class" })) };
    if (!context.explicit && (word === null || word.from === word.to)) return null;
    if (KEY_LINE.test(before)) {
      const step = words.steps.find((step) => step.kind === stepAround(context));
      const keys = step && /^\s/.test(before) ? step.settings : words.parts;
      return {
        from,
        options: keys.map((key): Completion => ({
          label: key.name,
          apply: `${key.name}: `,
          info: key.help,
          type: "property",
        })),
      };
    }
    const columns = new Map(
      (await columnsIn(context.state.doc.toString())).map((column) => [column.name, column]),
    );
    return {
      from,
      options: [
        ...[...columns.values()].map(({ name, declared, table }): Completion => ({
          label: name,
          detail: `${declared}, ${table}`,
          type: "variable",
        })),
        ...words.functions.map((functionName): Completion => ({
          label: functionName.name,
          detail: functionName.usage,
          type: "function",
          apply: `${functionName.name}(`,
        })),
      ],
    };
  };
}
