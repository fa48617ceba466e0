"use client";
import { useEffect, useState } from "react";
import type { RowField, TriedRow } from "@/runs/judging/try-row";
import { postJson } from "../basic/fetch-json";
import { useRead } from "../basic/use-read";
import { ReasonList } from "./reason-list";

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
  if (!value)
    return (
      <p role="status" className="text-faded">
        reading a row …
      </p>
    );
  return <Form model={model} fields={value.fields} />;
}

function Form({ model, fields }: { readonly model: number; readonly fields: readonly RowField[] }) {
  const [values, setValues] = useState<Readonly<Record<string, string | null>>>(() =>
    Object.fromEntries(fields.map((each) => [each.name, each.example])),
  );
  const [found, setFound] = useState<TriedRow>();
  const [failure, setFailure] = useState<string>();
  useEffect(() => {
    const stop = new AbortController();
    const timer = setTimeout(() => {
      postJson<TriedRow>(`/api/models/${model}/try`, values, stop.signal).then(
        (answer) => {
          setFound(answer);
          setFailure(undefined);
        },
        (error: unknown) => {
          if (!stop.signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
        },
      );
    }, PAUSE_MILLISECONDS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [model, values]);
  return (
    <div className="grid gap-x-10 gap-y-4 lg:grid-cols-[minmax(300px,420px)_1fr]">
      <section aria-label="The row">
        <h2>The row</h2>
        <p className="mb-2 text-sm text-faded">
          Values before the first step that learns, initially of the first row to score. An empty field is a
          missing value.
        </p>
        <div className="grid grid-cols-[max-content_1fr] items-center gap-x-3 gap-y-1.5">
          {fields.map((each) => (
            <label key={each.name} className="contents text-sm">
              <span className="truncate" title={each.type}>
                {each.name} <span className="text-xs text-faded">{each.type}</span>
              </span>
              {each.type === "boolean" ? (
                <select
                  className="field"
                  value={values[each.name] ?? ""}
                  onChange={(event) =>
                    setValues({
                      ...values,
                      [each.name]: event.target.value === "" ? null : event.target.value,
                    })
                  }
                >
                  <option value="">missing</option>
                  <option value="true">true</option>
                  <option value="false">false</option>
                </select>
              ) : each.example !== null && each.example.length > 60 ? (
                <textarea
                  className="field"
                  rows={3}
                  value={values[each.name] ?? ""}
                  onChange={(event) =>
                    setValues({
                      ...values,
                      [each.name]: event.target.value === "" ? null : event.target.value,
                    })
                  }
                />
              ) : (
                <input
                  className="field"
                  value={values[each.name] ?? ""}
                  placeholder="missing"
                  onChange={(event) =>
                    setValues({
                      ...values,
                      [each.name]: event.target.value === "" ? null : event.target.value,
                    })
                  }
                />
              )}
            </label>
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
            <p className="my-2 text-xl font-semibold">{found.says}</p>
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
