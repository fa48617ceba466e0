import { diffLines } from "diff";

export interface DiffLine {
  readonly kind: "same" | "added" | "removed";
  readonly text: string;
  /** Line number in the old text, for same and removed lines. */
  readonly before?: number;
  /** Line number in the new text, for same and added lines. */
  readonly after?: number;
}

/** Line by line, what changed from one text to the other. */
export function diffTexts(before: string, after: string): readonly DiffLine[] {
  let oldLine = 0;
  let newLine = 0;
  return diffLines(before, after).flatMap((part) => {
    const lines = part.value.replace(/\n$/, "").split("\n");
    return lines.map((text): DiffLine => {
      if (part.added) return { kind: "added", text, after: (newLine += 1) };
      if (part.removed) return { kind: "removed", text, before: (oldLine += 1) };
      return { kind: "same", text, before: (oldLine += 1), after: (newLine += 1) };
    });
  });
}
