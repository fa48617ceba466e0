"use client";
import { Command } from "cmdk";
import { useState } from "react";
import type { StepWords } from "@/server/editor-words";
import { useDesk } from "../draft/draft-context";
import type { ColumnHere } from "./places";
import { fittingKinds, STEP_GROUPS } from "./verbs";

interface Props {
  readonly open: boolean;
  readonly onOpenChange: (open: boolean) => void;
  /** Columns that were picked: what fits them comes first. */
  readonly picked: readonly ColumnHere[];
  /** Where the step will stand, in words. */
  readonly where: string;
  readonly onChoose: (kind: string) => void;
}

type Said = Pick<StepWords, "kind" | "title" | "about" | "words">;

/** The other name of a kind that was typed, or its beginning. */
export const otherName = ({ words }: Pick<Said, "words">, typed: string): string | undefined => {
  const wanted = typed.trim().toLowerCase();
  return wanted === "" ? undefined : words.find((word) => word.startsWith(wanted));
};

/**
 * How well a kind fits what was typed: by its title, then by its name in the file, then by what else people call it, and by its
 * description last. Every typed word must occur.
 */
export function fitOf(said: Said, typed: string): number {
  const { kind, title, about } = said;
  const wanted = typed.trim().toLowerCase();
  const name = title.toLowerCase();
  if (name.startsWith(wanted)) return 1;
  const words = wanted.split(/\s+/);
  if (words.every((word) => name.includes(word))) return 0.9;
  if (kind.replaceAll("_", " ").includes(wanted)) return 0.8;
  if (said.words.includes(wanted)) return 0.7;
  if (otherName(said, wanted) !== undefined) return 0.6;
  const all = [name, kind, about.toLowerCase(), ...said.words].join(" ");
  return words.every((word) => all.includes(word)) ? 0.3 : 0;
}

/** Kinds that fit what was typed, the best first. */
export const found = <Kind extends Said>(kinds: readonly Kind[], typed: string): readonly Kind[] =>
  kinds
    .map((kind) => ({ kind, fit: fitOf(kind, typed) }))
    .filter(({ fit }) => fit > 0)
    .sort((left, right) => right.fit - left.fit)
    .map(({ kind }) => kind);

/** Why a kind is found whose title does not say what was typed. */
function alsoCalled(said: Said, typed: string): string {
  const other = otherName(said, typed);
  return other === undefined || said.title.toLowerCase().includes(other) ? "" : ` (${other})`;
}

/** All kinds of steps, found by typing; each says what it does. */
export function AddStep({ open, onOpenChange, picked, where, onChoose }: Props) {
  const { words } = useDesk();
  const [typed, setTyped] = useState("");
  const fitting = fittingKinds(picked);
  const inOrder = (kinds: readonly string[]): readonly StepWords[] =>
    kinds.flatMap((kind) => words.steps.find((step) => step.kind === kind) ?? []);
  const groups =
    typed.trim() !== ""
      ? [["Found", found(words.steps, typed)] as const]
      : [
          ...(fitting.length > 0
            ? [
                [
                  `For ${picked
                    .map((column) => column.name)
                    .join(", ")
                    .slice(0, 60)}`,
                  inOrder(fitting),
                ] as const,
              ]
            : []),
          ...STEP_GROUPS.map(([name, kinds]) => [name, inOrder(kinds)] as const),
        ];
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpenChange}
      label="Add a step"
      shouldFilter={false}
      className="fixed left-1/2 top-20 z-50 w-[640px] -translate-x-1/2 rounded border border-ink bg-paper shadow-lg"
      overlayClassName="fixed inset-0 z-40 bg-ink/25"
    >
      <Command.Input
        value={typed}
        onValueChange={setTyped}
        placeholder={`Add a step ${where}: type join, fill, filter …`}
        className="w-full border-b border-rule bg-transparent px-4 py-3 outline-none"
      />
      <Command.List className="max-h-[430px] overflow-y-auto p-2" data-testid="add-step">
        <Command.Empty className="px-3 py-6 text-center text-faded">
          No matching step. Derive columns or a SQL step can do almost anything.
        </Command.Empty>
        {groups.map(([name, kinds]) => (
          <Command.Group
            key={name}
            heading={name}
            className="text-caption text-faded [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:pt-2"
          >
            {kinds.map((kind) => (
              <Command.Item
                key={kind.kind}
                value={`${name} ${kind.kind}`}
                onSelect={() => {
                  onOpenChange(false);
                  onChoose(kind.kind);
                }}
                className="cursor-pointer rounded px-2 py-1.5 text-ink data-[selected=true]:bg-weft"
              >
                <span className="text-caption font-medium">{kind.title}</span>{" "}
                <span className="text-caption text-faded">
                  {kind.about}
                  {alsoCalled(kind, typed)}
                </span>
              </Command.Item>
            ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command.Dialog>
  );
}
