"use client";
import { TARGET_WORDS } from "@/core/learn/task";
import { X } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Problem } from "@/core/problem";
import type { DivisionPreview } from "@/server/division";
import { saveRoles } from "@/server/file-actions";
import { Problems } from "../../basic/problems";
import { usePageRefresh } from "../../basic/page-refresh";
import { describeRest, type ValueRows, type Sides } from "../../target/target-values";
import { ValueList } from "../../target/value-list";
import { useAction } from "../../basic/use-action";
import { usePosted } from "../../queries/use-posted";
import { DivisionFieldRow, WayField } from "../division/part-fields";
import {
  columnsFor,
  kindsFor,
  needsPositive,
  withTarget,
  type FinalColumn,
  type RolesDraft,
} from "./roles-draft";
import { useRoles } from "./use-roles";
import { Select } from "../../select/select";

interface Props {
  readonly pipeline: string;
  readonly file: PipelineFile;
  /** Columns of the rows at the end of the main strand. */
  readonly columns: readonly FinalColumn[];
}

/** What columns are for: key, target, time, group and weight, to be changed at any time. */
export function RolesPanel({ pipeline, file, columns }: Props) {
  const refresh = usePageRefresh();
  const { draft, roles, sides, mistake, changed, ...form } = useRoles(file, columns);
  const { change } = form;
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const { value } = usePosted<DivisionPreview>(
    needsPositive(draft, columns) ? `/api/pipelines/${encodeURIComponent(pipeline)}/division` : undefined,
    // Any value will do: what is asked is which values there are.
    { roles: { ...roles, target: { ...roles.target, positive: roles.target.positive ?? "?" } } },
  );
  const targets = value?.counts?.answers ?? [];
  const save = async (): Promise<void> => {
    const outcome = await ask(() => saveRoles(pipeline, roles));
    if (!outcome.ok) return setRefused(outcome.problems);
    setRefused([]);
    toast.success(`Saved as version ${outcome.value.version} of the file.`);
    refresh();
  };
  const type = columns.find(({ name }) => name === draft.target)?.type ?? "other";
  return (
    <form aria-label="Column roles" onSubmit={(event) => void form.handleSubmit(save)(event)}>
      <div className="grid grid-cols-1 gap-x-10 @3xl:grid-cols-2">
        <div>
          <KeyField draft={draft} columns={columns} change={change} />
          <ColumnField
            name="Target"
            value={draft.target}
            columns={columns.filter(({ encoded }) => !encoded)}
            onChange={(target) => change(withTarget(draft, target, columns))}
          />
          <WayField
            name="Target type"
            value={draft.kind}
            ways={[...new Set([draft.kind, ...kindsFor(type)])].map(
              (kind) => [kind, TARGET_WORDS[kind]] as const,
            )}
            onChange={(kind) => change({ kind })}
          />
          {needsPositive(draft, columns) && (
            <SidesFields
              sides={draft.sides}
              mistakes={sides}
              targets={targets}
              onChange={(changedSides) => change({ sides: changedSides })}
            />
          )}
        </div>
        <div>
          {(["time", "group", "weight"] as const).map((role) => (
            <ColumnField
              key={role}
              name={{ time: "Time", group: "Group", weight: "Weight" }[role]}
              value={draft[role]}
              columns={columnsFor(role, draft, columns)}
              none="none"
              onChange={(name) => change({ [role]: name })}
            />
          ))}
        </div>
      </div>
      <div className="mt-2 flex items-center gap-3">
        <button type="submit" className="press" disabled={busy || !changed || !form.isValid}>
          Save roles
        </button>
        {changed && (
          <button type="button" className="press" onClick={form.reset}>
            Undo changes
          </button>
        )}
        <span className="text-caption text-faded" role="status">
          {mistake ?? (changed ? "" : "Saved.")}
        </span>
      </div>
      {refused.length > 0 && (
        <div className="mt-2">
          <Problems problems={refused} />
        </div>
      )}
    </form>
  );
}

/** Which values are positive, which negative, and how many rows that leaves out. */
function SidesFields({
  sides,
  mistakes,
  targets,
  onChange,
}: {
  readonly sides: Sides;
  readonly mistakes: Readonly<Record<"positive" | "negative", string | undefined>>;
  readonly targets: readonly ValueRows[];
  readonly onChange: (sides: Sides) => void;
}) {
  const known = targets.map(({ value }) => value);
  const counted = targets.reduce((sum, { rows }) => sum + rows, 0);
  return (
    <>
      <DivisionFieldRow name="Positive is" mistake={mistakes.positive}>
        {({ id, trouble }) => (
          <ValueList
            {...{ id, trouble, known }}
            side="positive"
            values={sides.positive}
            onChange={(positive) => onChange({ ...sides, positive })}
          />
        )}
      </DivisionFieldRow>
      <DivisionFieldRow name="Negative is" mistake={mistakes.negative}>
        {({ id, trouble }) => (
          <>
            <ValueList
              {...{ id, trouble, known }}
              side="negative"
              values={sides.negative}
              none="every other value"
              onChange={(negative) => onChange({ ...sides, negative })}
            />
            {counted > 0 && sides.negative.length > 0 && (
              <p className="text-caption text-faded" data-testid="left-out">
                {describeRest(sides, targets, counted)}
              </p>
            )}
          </>
        )}
      </DivisionFieldRow>
    </>
  );
}

/** The column that has a role. */
function ColumnField({
  name,
  value,
  columns,
  none,
  onChange,
}: {
  readonly name: string;
  readonly value: string;
  readonly columns: readonly FinalColumn[];
  /** What having none is called, where that is possible. */
  readonly none?: string;
  readonly onChange: (name: string) => void;
}) {
  const there = columns.some((column) => column.name === value);
  return (
    <DivisionFieldRow name={name} mistake={undefined}>
      {({ id }) => (
        <Select
          id={id}
          label={name}
          className="w-full"
          value={value}
          onChange={onChange}
          options={[
            ...(none === undefined ? [] : [{ value: "", label: none }]),
            ...(there || value === "" ? [] : [value]),
            ...columns.map(({ name: column, type, encoded }) => ({
              value: column,
              label: encoded
                ? `${column}: encoded by a step; derive a copy before it`
                : `${column} (${type})`,
              disabled: encoded,
            })),
          ]}
        />
      )}
    </DivisionFieldRow>
  );
}

/** The columns that name a row together. */
function KeyField({
  draft,
  columns,
  change,
}: {
  readonly draft: RolesDraft;
  readonly columns: readonly FinalColumn[];
  readonly change: (changed: Partial<RolesDraft>) => void;
}) {
  const { key } = draft;
  return (
    <DivisionFieldRow name="Key" mistake={undefined}>
      {({ id }) => (
        <div className="flex flex-wrap items-center gap-1.5">
          {key.map((name) => (
            <span
              key={name}
              className="inline-flex items-center gap-1 rounded border border-rule bg-paper px-1.5"
            >
              {name}
              <button
                type="button"
                aria-label={`Remove ${name} from the key`}
                onClick={() => change({ key: key.filter((other) => other !== name) })}
              >
                <X size={12} />
              </button>
            </span>
          ))}
          <Select
            id={id}
            label="Key"
            className="w-44"
            value=""
            placeholder="add a column"
            options={columnsFor("key", draft, columns)
              .map((column) => column.name)
              .filter((column) => !key.includes(column))}
            onChange={(column) => change({ key: [...key, column] })}
          />
        </div>
      )}
    </DivisionFieldRow>
  );
}
