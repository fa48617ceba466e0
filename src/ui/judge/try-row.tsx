"use client";
import { Skeleton } from "../basic/skeleton";
import { useState } from "react";
import type { RowField, TriedRow } from "@/runs/judging/try-row";
import { usePosted } from "../queries/use-posted";
import { useRead } from "../queries/use-read";
import { ReasonList } from "./reason-list";
import { Select } from "../select/select";

const PAUSE_MILLISECONDS = 350;

/** A form for one row: its prediction and the reasons follow what is typed. */
export function TryRow({ model }: { readonly model: number }) {
  const { value, failure } = useRead<{ fields: readonly RowField[] }>(`/api/models/${model}/try`);
  if (failure)
    return (
      <p role="alert" className="text-madder">
        {failure}
      </p>
    );
  if (!value) return <Skeleton label="reading a row …" lines={12} columns={2} className="" />;
  return <Form model={model} fields={value.fields} />;
}

function Form({ model, fields }: { readonly model: number; readonly fields: readonly RowField[] }) {
  const [values, setValues] = useState<Readonly<Record<string, string | null>>>(() =>
    Object.fromEntries(fields.map((field) => [field.name, field.example])),
  );
  const { value: found, failure } = usePosted<TriedRow>(`/api/models/${model}/try`, values, {
    pauseMilliseconds: PAUSE_MILLISECONDS,
    keepsLast: true,
  });
  return (
    <div className="grid gap-x-10 gap-y-4 lg:grid-cols-[minmax(300px,420px)_1fr]">
      <section aria-label="The row">
        <h2>The row</h2>
        <p className="mb-2 text-caption text-faded">
          Values before the first step that learns, initially of the first row to score. An empty field is a
          missing value.
        </p>
        <div className="grid grid-cols-[max-content_1fr] items-center gap-x-3 gap-y-1.5">
          {fields.map((field) => (
            <FieldOfRow
              key={field.name}
              field={field}
              value={values[field.name] ?? ""}
              onChange={(text) => setValues({ ...values, [field.name]: text === "" ? null : text })}
            />
          ))}
        </div>
      </section>
      <section aria-label="Prediction" aria-live="polite" data-testid="tried">
        <h2>Prediction</h2>
        {failure && (
          <p role="alert" className="mt-1 text-madder">
            {failure}
          </p>
        )}
        {!failure && found && (
          <>
            <p className="my-2 text-title font-semibold">{found.says}</p>
            <ReasonList found={found} />
          </>
        )}
        {!failure && !found && (
          <p role="status" className="text-faded">
            scoring …
          </p>
        )}
      </section>
    </div>
  );
}

/** A text that is longer gets several lines. */
const LONG_TEXT = 60;

/** One value of the row: a choice for yes and no, else a text. */
function FieldOfRow({
  field: { name, type, example },
  value,
  onChange,
}: {
  readonly field: RowField;
  readonly value: string;
  readonly onChange: (text: string) => void;
}) {
  const isLong = example !== null && example.length > LONG_TEXT;
  return (
    <label className="contents text-caption">
      <span className="truncate" title={type}>
        {name} <span className="text-caption text-faded">{type}</span>
      </span>
      {type === "boolean" && (
        <Select
          label={name}
          value={value}
          options={[{ value: "", label: "missing" }, "true", "false"]}
          onChange={onChange}
        />
      )}
      {type !== "boolean" && isLong && (
        <textarea
          className="field"
          rows={3}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {type !== "boolean" && !isLong && (
        <input
          className="field"
          value={value}
          placeholder="missing"
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </label>
  );
}
