"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useForm, type UseFormRegisterReturn } from "react-hook-form";
import { useEffect, useRef, useState } from "react";
import type { Problem } from "@/core/problem";
import type { Connected } from "@/runs/connect";
import { connect } from "@/server/connection-actions";
import { PageLink } from "../basic/page-link";
import { Problems } from "../basic/problems";
import { useAction } from "../basic/use-action";
import { CheckList } from "./check-list";
import { connectionSchema, NEW_CONNECTION, type ConnectionDraft } from "./connection-draft";
import { GrantsPanel } from "./grants-panel";

interface FieldSet {
  readonly title: string;
  readonly says: string;
  readonly fields: readonly (readonly [field: keyof ConnectionDraft, label: string, type?: "password"])[];
}

const SETS: readonly FieldSet[] = [
  {
    title: "Server",
    says: "PostgreSQL 15 or newer.",
    fields: [
      ["host", "Host"],
      ["port", "Port"],
      ["database", "Database"],
    ],
  },
  {
    title: "Reader role",
    says: "Used by pages, profiles and previews. Cannot write.",
    fields: [
      ["reader", "Reader"],
      ["readerPassword", "Password of the reader", "password"],
    ],
  },
  {
    title: "Writer role",
    says: "Used by runs. Owns the three schemas below and nothing else.",
    fields: [
      ["writer", "Writer"],
      ["writerPassword", "Password of the writer", "password"],
    ],
  },
  {
    title: "Schemas",
    says: "For predictions, for intermediate tables of runs, and for imported files.",
    fields: [
      ["outputSchema", "Predictions"],
      ["scratchSchema", "Scratch"],
      ["importSchema", "Imports"],
    ],
  },
];

/**
 * Connects a warehouse: addresses and roles, tried at once, and the statements that give the roles what
 * they need.
 */
export function ConnectionForm() {
  const { register, handleSubmit, watch, formState } = useForm<ConnectionDraft>({
    resolver: zodResolver(connectionSchema),
    defaultValues: NEW_CONNECTION,
    mode: "onTouched",
  });
  const draft = watch();
  const [outcome, setOutcome] = useState<Connected>();
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, ask] = useAction();
  const shown = useRef<HTMLElement>(null);
  // What was tried stands below the form: it is brought into sight, and read out.
  useEffect(() => shown.current?.focus(), [outcome]);
  const tryIt = async (values: ConnectionDraft): Promise<void> => {
    const { host, port, database, reader, readerPassword, writer, writerPassword, ...schemas } = values;
    const answer = await ask(() =>
      connect({
        host,
        port: Number(port),
        database,
        reader: { user: reader, password: readerPassword },
        writer: { user: writer, password: writerPassword },
        ...schemas,
      }),
    );
    setRefused(answer.ok ? [] : answer.problems);
    setOutcome(answer.ok ? answer.value : undefined);
  };
  if (outcome?.connected)
    return (
      <section aria-label="Connected" className="max-w-3xl space-y-4">
        <p role="status">
          <b className="text-moss">Connected.</b> Pages, workers and the command line now use{" "}
          <b>{draft.database}</b> at {draft.host} . Logins are stored encrypted.
        </p>
        <CheckList checks={outcome.checks} />
        <PageLink href="/tables" className="press press-main">
          Open its tables
        </PageLink>
      </section>
    );
  return (
    <div className="grid grid-cols-[minmax(0,6fr)_minmax(0,5fr)] gap-10">
      <form
        aria-label="Connect your warehouse"
        className="space-y-5"
        onSubmit={(event) => void handleSubmit(tryIt)(event)}
      >
        {SETS.map(({ title, says, fields }) => (
          <fieldset key={title}>
            <legend className="font-semibold">{title}</legend>
            <p className="mb-2 text-caption text-faded">{says}</p>
            {fields.map(([field, label, type]) => (
              <DraftLine
                key={field}
                label={label}
                type={type ?? "text"}
                problem={formState.errors[field]?.message}
                field={register(field)}
              />
            ))}
          </fieldset>
        ))}
        <div className="flex items-baseline gap-3">
          <button type="submit" className="press press-main" disabled={busy} aria-busy={busy}>
            {busy ? "Testing …" : "Test and connect"}
          </button>
          <p className="text-caption text-faded">Nothing changes unless all checks pass.</p>
        </div>
        <Problems problems={refused} />
        {outcome && (
          <section ref={shown} tabIndex={-1} aria-label="Checks" role="alert" className="outline-none">
            <p className="mb-2 font-medium text-madder">
              Not connected. Fix the failed checks and try again.
            </p>
            <CheckList checks={outcome.checks} />
          </section>
        )}
      </form>
      <GrantsPanel draft={draft} />
    </div>
  );
}

function DraftLine({
  label,
  type,
  problem,
  field,
}: {
  readonly label: string;
  readonly type: "text" | "password";
  readonly problem: string | undefined;
  readonly field: UseFormRegisterReturn;
}) {
  const id = `connection-${label.replaceAll(" ", "-")}`;
  return (
    <div className="grid grid-cols-[170px_minmax(0,1fr)] items-baseline gap-x-3 py-1">
      <label htmlFor={id}>{label}</label>
      <div>
        <input
          id={id}
          type={type}
          autoComplete="off"
          className="field w-full max-w-sm"
          aria-invalid={problem !== undefined}
          aria-describedby={`${id}-problem`}
          {...field}
        />
        <p id={`${id}-problem`} role="status" className="text-caption text-madder">
          {problem}
        </p>
      </div>
    </div>
  );
}
