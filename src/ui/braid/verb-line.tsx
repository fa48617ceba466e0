"use client";
import { X } from "lucide-react";
import type { Thread } from "@/core/plan/braid";
import { valueIn } from "@/core/pipeline/edit/parts";
import type { GivenRole } from "@/core/pipeline/edit/roles";
import { useDesk } from "../draft/draft-context";
import { fittingKinds } from "./verbs";
import type { ColumnHere, Place } from "./places";
import { Select } from "../select/select";
import { pairedOptions } from "../select/options";

interface Props {
  readonly picked: readonly ColumnHere[];
  readonly place: Place | undefined;
  readonly about: string;
  readonly threads: readonly Thread[];
  readonly onVerb: (kind: string) => void;
  readonly onMore: () => void;
  readonly onMark: (known: string | undefined) => void;
  readonly onLeaveOut: (out: boolean) => void;
  readonly onRole: (role: GivenRole | "target") => void;
  readonly onClear: () => void;
}

/** Most verbs shown as buttons; the others are behind "more". */
const SHOWN = 6;
const MOMENTS = [
  ["before", "before prediction"],
  ["at", "at prediction"],
  ["after", "after prediction"],
] as const;

const ROLES = [
  ["feature", "feature"],
  ["target", "target"],
  ["key", "key"],
  ["time", "time"],
  ["group", "group"],
  ["weight", "weight"],
  ["excluded", "excluded"],
] as const;
/** Roles that one column has. */
const SINGLE_ROLES: readonly string[] = ["target", "time", "group", "weight"];

/** What can be done with the picked columns. */
export function VerbLine({
  picked,
  place,
  about,
  threads,
  onVerb,
  onMore,
  onMark,
  onLeaveOut,
  onRole,
  onClear,
}: Props) {
  const { words, draft } = useDesk();
  const kinds = fittingKinds(picked).slice(0, SHOWN);
  const known = new Set(
    picked.map((column) => {
      const value = valueIn(draft.text, ["roles", "known", column.name]);
      return typeof value === "string" ? value : "";
    }),
  );
  const mark = known.size === 1 ? ([...known][0] ?? "") : "";
  const excluded = threads.every((thread) => thread.role === "excluded");
  const canLeaveOut = threads.every((thread) => thread.role === "feature" || thread.role === "excluded");
  return (
    <div
      role="toolbar"
      aria-label="Actions for the selected columns"
      className="flex shrink-0 items-center gap-1.5 overflow-x-auto border-b border-rule bg-paper px-4 py-1 text-caption"
      data-testid="verbs"
    >
      <span className="mr-1 max-w-[24%] shrink-0 truncate" title={about}>
        {picked.length > 1 ? (
          <>
            <b>{picked.length} columns</b>{" "}
            <span className="text-faded">{picked.map((column) => column.name).join(", ")}</span>
          </>
        ) : (
          <>
            <b>{threads[0]?.name}</b>
            {about.slice(threads[0]?.name.length ?? 0)}
          </>
        )}
      </span>
      {!place && <span className="text-faded">These columns are never in the same strand.</span>}
      {place &&
        kinds.map((kind) => (
          <button
            key={kind}
            type="button"
            onClick={() => onVerb(kind)}
            className="press shrink-0 px-2 py-0.5"
          >
            {words.steps.find((step) => step.kind === kind)?.title}
          </button>
        ))}
      {place && (
        <button type="button" onClick={onMore} className="press press-quiet shrink-0 px-2 py-0.5">
          more …
        </button>
      )}
      <label className="ml-auto flex shrink-0 items-center gap-1.5 text-faded">
        known
        <Select
          label="When the selected columns become known"
          className="w-40 py-0"
          value={mark}
          onChange={(chosen) => onMark(chosen === "" ? undefined : chosen)}
          options={[
            { value: "", label: known.size > 1 ? "different" : "not marked" },
            ...pairedOptions(MOMENTS),
          ]}
        />
      </label>
      {threads.every((thread) => thread.role !== undefined) && (
        <label className="flex shrink-0 items-center gap-1.5 text-faded">
          role
          <Select
            label="Role of the selected columns"
            className="w-28 py-0"
            placeholder="different"
            value={ROLES.find(([name]) => threads.every((thread) => thread.role === name))?.[0] ?? ""}
            onChange={onRole}
            options={pairedOptions(
              ROLES.filter(([name]) => threads.length === 1 || !SINGLE_ROLES.includes(name)),
            )}
          />
        </label>
      )}
      {canLeaveOut && (
        <button
          type="button"
          onClick={() => onLeaveOut(!excluded)}
          className="press press-quiet shrink-0 px-2 py-0.5"
        >
          {excluded ? "use as feature" : "leave out"}
        </button>
      )}
      <button
        type="button"
        onClick={onClear}
        aria-label="Clear selection"
        className="press press-quiet shrink-0 px-1 py-0.5"
      >
        <X size={14} />
      </button>
    </div>
  );
}
