import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import type { Extension } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { tags } from "@lezer/highlight";

const look = EditorView.theme({
  "&": { backgroundColor: "transparent", color: "var(--ink)", fontSize: "12px" },
  "&.cm-focused": { outline: "none" },
  ".cm-content": { fontFamily: "var(--font-mono)", caretColor: "var(--ink)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  ".cm-gutters": { backgroundColor: "transparent", color: "var(--faded)", border: "none" },
  ".cm-activeLine, .cm-activeLineGutter": {
    backgroundColor: "color-mix(in srgb, var(--weft) 55%, transparent)",
  },
  "&.cm-focused .cm-selectionBackground, .cm-selectionBackground, ::selection": {
    backgroundColor: "color-mix(in srgb, var(--weld) 30%, transparent) !important",
  },
  ".cm-tooltip": {
    backgroundColor: "var(--paper)",
    color: "var(--ink)",
    border: "1px solid var(--ink)",
    borderRadius: "3px",
  },
  ".cm-tooltip-autocomplete ul li[aria-selected]": { backgroundColor: "var(--weft)", color: "var(--ink)" },
  ".cm-lint-marker-error, .cm-lint-marker-warning": {
    content: "normal",
    fontFamily: "var(--font-mono)",
    fontWeight: "600",
    textAlign: "center",
  },
  ".cm-lint-marker-error::before": { content: '"!"', color: "var(--madder)" },
  ".cm-lint-marker-warning::before": { content: '"?"', color: "var(--weld)" },
  ".cm-diagnostic-error": { borderLeftColor: "var(--madder)" },
  ".cm-diagnostic-warning": { borderLeftColor: "var(--weld)" },
});

const inks = HighlightStyle.define([
  { tag: [tags.keyword, tags.definition(tags.propertyName), tags.propertyName], color: "var(--woad)" },
  { tag: [tags.string, tags.special(tags.string)], color: "var(--moss)" },
  { tag: [tags.number, tags.bool, tags.null], color: "var(--plum)" },
  { tag: [tags.comment, tags.lineComment, tags.blockComment], color: "var(--faded)", fontStyle: "italic" },
  { tag: [tags.typeName], color: "var(--weld)" },
]);

/** Colours and type of every editor, from the same dyes as the rest. */
export const editorLook: readonly Extension[] = [look, syntaxHighlighting(inks)];
