"use client";
import { parseAsStringLiteral, useQueryState } from "nuqs";
import { JUDGED_PARTS, type JudgedPart } from "@/core/evaluate/judged-part";

/** What the parts are called. */
export const PART_WORDS: Readonly<Record<JudgedPart, string>> = {
  holdout: "holdout",
  training: "training rows",
  blind: "blind rows",
};

/** The part of a version's rows that is looked at, kept in the address: those that judge unless another one is chosen. */
export function usePart(parts: readonly JudgedPart[]): readonly [JudgedPart, (part: JudgedPart) => void] {
  const [asked, setAsked] = useQueryState("part", parseAsStringLiteral(JUDGED_PARTS));
  const part = asked !== null && parts.includes(asked) ? asked : (parts[0] ?? "holdout");
  return [part, (chosen) => void setAsked(chosen)];
}

/** Chooses whether the rows that judge, those that train, or the opened blind ones are looked at. */
export function PartChoice({
  parts,
  part,
  insideFolds,
  onChange,
}: {
  readonly parts: readonly JudgedPart[];
  readonly part: JudgedPart;
  readonly insideFolds: boolean;
  readonly onChange: (part: JudgedPart) => void;
}) {
  if (parts.length < 2) return null;
  return (
    <div role="group" aria-label="Part" className="flex">
      {parts.map((choice) => (
        <button
          key={choice}
          type="button"
          className={`press -ml-px rounded-none ${part === choice ? "press-main" : ""}`}
          aria-pressed={part === choice}
          onClick={() => onChange(choice)}
        >
          {choice === "holdout" && insideFolds ? "cross-validation" : PART_WORDS[choice]}
        </button>
      ))}
    </div>
  );
}
