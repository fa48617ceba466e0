"use client";
import type { Crossing } from "@/core/plan/braid";
import { parseTableName } from "@/core/pipeline/table-name";
import { addStrand } from "@/core/pipeline/edit/parts";
import { changeStep } from "@/core/pipeline/edit/steps";
import { useEffect, useMemo, useRef } from "react";
import { useDesk } from "../../draft/draft-context";
import { columnsAt, lengthOf } from "../places";
import { Labelled } from "./controls";
import type { Input } from "./field";
import { FormContext, type FormPlace } from "./form-context";
import { FORMS } from "./forms";
import { inFormWords } from "./form-words";
import { marksOf } from "./column-marks";
import { Setting } from "./setting";
import { useColumnProfiles } from "../../tables/use-column-profiles";
import { TypedText } from "../../basic/typed-text";

/** What can be filled in. */
const FIELDS = "[role=combobox], input, textarea, [contenteditable=true]";

/** Controls that need all the width there is. */
const WIDE: ReadonlySet<Input["as"]> = new Set([
  "expression",
  "expressions",
  "select",
  "by column",
  "join columns",
  "values of",
  "map of",
  "order",
  "regions",
]);

/** The settings of a step: each change is an edit of the file, and takes effect on the preview at once. */
export function StepForm({
  crossing,
  focused,
  onFocused,
}: {
  readonly crossing: Crossing;
  /** Whether its first field is to have the focus, as for a step that was just added. */
  readonly focused: boolean;
  readonly onFocused: () => void;
}) {
  const shown = useRef<HTMLDivElement>(null);
  const { braid, draft, steps, words } = useDesk();
  const settings = crossing.settings as Readonly<Record<string, unknown>>;
  const kind = words.steps.find((step) => step.kind === crossing.kind);
  const profileOf = useColumnProfiles([...new Set((braid?.groups ?? []).map(({ from }) => from))]);
  const form = useMemo((): FormPlace | undefined => {
    if (!braid) return undefined;
    const place = { strand: crossing.strand, after: crossing.position };
    const columns = columnsAt(braid, place);
    return {
      place,
      settings,
      columns,
      marks: marksOf(columns, braid, profileOf),
      strands: braid.groups
        .filter((group) => group.strand !== crossing.strand)
        .map((group) => ({
          name: group.strand,
          columns: columnsAt(braid, { strand: group.strand, after: lengthOf(braid, group.strand) }),
        })),
      put: (changes) =>
        void steps.edit(crossing, (text, here) =>
          changeStep(
            text,
            here,
            Object.entries(changes).map(([name, value]) => ({ path: [name], value })),
          ),
        ),
      addTable: (table) => {
        const base = parseTableName(table)?.table ?? table;
        const taken = braid.groups.map((group) => group.strand);
        const name = taken.includes(base) ? `${base} ${taken.length + 1}` : base;
        return draft.edit((text) => addStrand(text, { name, from: table })) ? name : undefined;
      },
    };
  }, [braid, crossing, draft, steps, settings, profileOf]);
  useEffect(() => {
    if (!focused) return undefined;
    // The editor of an expression makes its own field a moment later.
    const timer = setTimeout(() => {
      shown.current?.querySelector<HTMLElement>(FIELDS)?.focus();
      onFocused();
    });
    return () => clearTimeout(timer);
  }, [focused, onFocused]);
  if (!form) return null;
  const problemsOf = (name: string): readonly string[] =>
    crossing.problems.filter(({ location }) => location?.path?.[4] === name).map(inFormWords);
  const fields = FORMS[crossing.kind] ?? [];
  const named = [...fields.map((field) => field.name), "name", "note"];
  const others = crossing.problems.filter((problem) => !named.includes(String(problem.location?.path?.[4])));
  const help = (name: string): string | undefined =>
    kind?.settings.find((setting) => setting.name === name)?.help;
  return (
    <FormContext.Provider value={form}>
      <div ref={shown} className="@container max-w-[1400px] px-4 py-2" data-testid="step-form">
        {kind && (
          <p className="pb-1 text-caption text-faded">
            {kind.about} Missing values: {kind.missing}
          </p>
        )}
        {others.map((problem) => (
          <p key={problem.message} role="alert" className="py-1 text-madder">
            {problem.message} {problem.hint}
          </p>
        ))}
        {fields.map((field) => (
          <Labelled
            key={field.name}
            label={field.label ?? field.name.replaceAll("_", " ")}
            help={help(field.name)}
            problems={problemsOf(field.name)}
            wide={WIDE.has(field.as)}
          >
            <Setting
              input={field}
              label={field.label ?? field.name.replaceAll("_", " ")}
              value={settings[field.name]}
              initial={kind?.settings.find((setting) => setting.name === field.name)?.initial}
              around={settings}
              onChange={(value) => form.put({ [field.name]: value })}
            />
          </Labelled>
        ))}
        <Labelled label="name" problems={problemsOf("name")} help="Shown in the Braid and in the SQL.">
          <TypedText
            label="name"
            value={typeof settings["name"] === "string" ? settings["name"] : ""}
            usual={crossing.sentence}
            onChange={(text) => form.put({ name: text.trim() === "" ? undefined : text })}
          />
        </Labelled>
        <Labelled label="note" problems={problemsOf("note")} help="Why this step is needed.">
          <TypedText
            long
            label="note"
            value={typeof settings["note"] === "string" ? settings["note"] : ""}
            onChange={(text) => form.put({ note: text.trim() === "" ? undefined : text })}
          />
        </Labelled>
      </div>
    </FormContext.Provider>
  );
}
