"use client";
import { useState, type ReactNode } from "react";
import { toldDelivery } from "@/core/pipeline/edit/told";
import {
  contractSchema,
  deliverySchema,
  type Delivery,
  type DeliveryMode,
} from "@/core/pipeline/operating-schema";
import { saveListed } from "@/server/file-actions";
import { FormDialog, FormLine } from "../basic/form-dialog";
import { freeTitle } from "../basic/free-title";
import { propertiesOf, SchemaFields } from "../basic/schema-fields";
import { MODES, OF_WORDS, ROWS } from "./delivery-words";
import { HandOverFields } from "./hand-over-fields";
import { RouteFields } from "./route-fields";

export interface DeliveryFacts {
  readonly pipeline: string;
  /** The schema of prediction tables. */
  readonly schema: string;
  /** Columns of the rows that are scored, those of the key left out. */
  readonly columns: readonly string[];
  readonly keys: readonly string[];
  /** Names of the deliveries that there are. */
  readonly taken: readonly string[];
  readonly target: "binary" | "classes" | "number";
  /** The threshold of a new delivery, where one was chosen on the page of a version. */
  readonly threshold?: number;
}

interface Props {
  readonly facts: DeliveryFacts;
  readonly delivery: Delivery | undefined;
  /** Place in the file; null for a new one. */
  readonly place: number | null;
  readonly children: ReactNode;
}

const CONTRACT = propertiesOf(contractSchema);
/** What can be asked of rows that nothing predicts. */
const COUNTS = CONTRACT.filter(([name]) => ["least_rows", "most_rows"].includes(name));

const fresh = (facts: DeliveryFacts): Delivery => ({
  ...deliverySchema.parse({ name: "-", table: `${facts.schema}.${facts.pipeline.replaceAll("-", "_")}` }),
  name: freeTitle("predictions", facts.taken),
  ...(facts.threshold === undefined ? {} : { threshold: facts.threshold }),
});

/** Makes or changes a delivery: where predictions go, of which rows, with which columns, and what has to hold before. */
export function DeliveryForm({ facts, delivery, place, children }: Props) {
  const [draft, setDraft] = useState<Delivery>(() => delivery ?? fresh(facts));
  const change = (part: Partial<Delivery>): void => setDraft((before) => ({ ...before, ...part }));
  const entry = {
    ...toldDelivery({
      ...draft,
      name: draft.name.trim(),
      table: draft.table.trim(),
      partition: draft.mode === "partition" ? draft.partition : undefined,
    }),
  };
  const predicts = draft.of === "predictions";
  const carried = predicts ? [...facts.keys, ...draft.columns] : [...facts.keys, ...facts.columns];
  const newerBy = typeof draft.rows === "object" ? draft.rows.newer_by : undefined;
  return (
    <FormDialog
      title={place === null ? "New delivery" : `Delivery “${delivery?.name ?? ""}”`}
      trigger={children}
      incomplete={draft.name.trim() === "" || draft.table.trim() === ""}
      onOpen={() => setDraft(delivery ?? fresh(facts))}
      save={() => saveListed({ pipeline: facts.pipeline, part: "delivery", place, entry })}
    >
      <FormLine label="name" htmlFor="delivery-name">
        <input
          id="delivery-name"
          className="field w-80"
          value={draft.name}
          onChange={(event) => change({ name: event.target.value })}
        />
      </FormLine>
      <FormLine
        label="what"
        htmlFor="delivery-of"
        says={
          predicts
            ? undefined
            : "Key, target and features as used for training, with the part (training, holdout, blind) of each row. Targets of the blind holdout are not included."
        }
      >
        <select
          id="delivery-of"
          className="field"
          value={draft.of}
          onChange={(event) => setDraft(withContent(draft, event.target.value as Delivery["of"], facts))}
        >
          {Object.entries(OF_WORDS).map(([of, says]) => (
            <option key={of} value={of}>
              {says}
            </option>
          ))}
        </select>
      </FormLine>
      <FormLine
        label="table"
        htmlFor="delivery-table"
        says={
          draft.routes.length > 0
            ? "For rows that match no route."
            : "Created if it does not exist; an existing table must have matching columns."
        }
      >
        <input
          id="delivery-table"
          className="field figure w-80"
          value={draft.table}
          onChange={(event) => change({ table: event.target.value })}
        />
      </FormLine>
      {predicts && (
        <RouteFields
          routes={draft.routes}
          schema={facts.schema}
          carried={carried}
          onChange={(routes) => change({ routes })}
        />
      )}
      <FormLine label="how" htmlFor="delivery-mode">
        <select
          id="delivery-mode"
          className="field"
          value={draft.mode}
          onChange={(event) => change({ mode: event.target.value as DeliveryMode })}
        >
          {Object.entries(MODES).map(([mode, says]) => (
            <option key={mode} value={mode}>
              {says}
            </option>
          ))}
        </select>
        {draft.mode === "partition" && (
          <label className="ml-3">
            partition column{" "}
            <ColumnSelect
              columns={carried}
              value={draft.partition}
              onChange={(partition) => change({ partition })}
            />
          </label>
        )}
      </FormLine>
      <FormLine
        label="rows"
        htmlFor="delivery-rows"
        says={
          draft.rows === "all"
            ? undefined
            : "With a schedule that runs when rows arrive, each row is scored soon after it arrives."
        }
      >
        <select
          id="delivery-rows"
          className="field"
          value={newerBy === undefined ? String(draft.rows) : "newer"}
          onChange={(event) =>
            change({
              rows:
                event.target.value === "newer"
                  ? { newer_by: carried[0] ?? "" }
                  : (event.target.value as "all" | "not_yet_predicted"),
            })
          }
        >
          <option value="all">{ROWS[draft.of].all}</option>
          <option value="not_yet_predicted">{ROWS[draft.of].not_yet_predicted}</option>
          <option value="newer">rows newer than those delivered</option>
        </select>
        {newerBy !== undefined && (
          <label className="ml-3">
            by{" "}
            <ColumnSelect
              columns={carried}
              value={newerBy}
              onChange={(column) => change({ rows: { newer_by: column } })}
            />
          </label>
        )}
      </FormLine>
      <FormLine
        label="more columns"
        says={
          predicts
            ? "Written in addition to key, prediction, probability, version, run and times."
            : "Written in addition to key, target, features, file version, run and times."
        }
      >
        <ul className="flex flex-wrap gap-1.5">
          {draft.columns.map((name) => (
            <li key={name}>
              <button
                type="button"
                className="press py-0 text-sm"
                aria-label={`Leave out ${name}`}
                title="Remove it"
                onClick={() => change({ columns: draft.columns.filter((each) => each !== name) })}
              >
                {name} <span aria-hidden>×</span>
              </button>
            </li>
          ))}
          <li>
            <select
              aria-label="Add column"
              className="field py-0 text-sm"
              value=""
              onChange={(event) => {
                if (event.target.value !== "") change({ columns: [...draft.columns, event.target.value] });
              }}
            >
              <option value="">add column …</option>
              {facts.columns
                .filter((name) => !draft.columns.includes(name))
                .map((name) => (
                  <option key={name}>{name}</option>
                ))}
            </select>
          </li>
        </ul>
      </FormLine>
      {facts.target === "binary" && predicts && (
        <FormLine
          label="threshold"
          htmlFor="delivery-threshold"
          says="Predictions with at least this probability are positive."
        >
          <input
            id="delivery-threshold"
            type="number"
            min={0}
            max={1}
            step="any"
            className="field figure w-24"
            value={draft.threshold}
            onChange={(event) => change({ threshold: Number(event.target.value) })}
          />
        </FormLine>
      )}
      {predicts && (
        <FormLine
          label="reasons"
          htmlFor="delivery-reasons"
          says={
            draft.reasons > 0
              ? "Number of columns with the largest contributions written with each prediction. The worker then makes the predictions, which takes longer."
              : "None are written."
          }
        >
          <input
            id="delivery-reasons"
            type="number"
            min={0}
            max={20}
            className="field figure w-24"
            value={draft.reasons}
            onChange={(event) => change({ reasons: Number(event.target.value) })}
          />
        </FormLine>
      )}
      <HandOverFields receivers={draft.hand_over} onChange={(hand_over) => change({ hand_over })} />
      <h3 className="mb-2 mt-5 font-semibold">Contract</h3>
      <SchemaFields
        properties={predicts ? CONTRACT : COUNTS}
        values={(entry["contract"] as Readonly<Record<string, unknown>>) ?? {}}
        onChange={(name, value) => change({ contract: contractOf(draft.contract, name, value) })}
      />
    </FormDialog>
  );
}

/** A draft that delivers something else, under the name and into the table that go with it, unless others were chosen. */
function withContent(draft: Delivery, of: Delivery["of"], facts: DeliveryFacts): Delivery {
  const proposed = (content: Delivery["of"]): Pick<Delivery, "name" | "table"> => ({
    name: freeTitle(content, facts.taken),
    table: `${facts.schema}.${facts.pipeline.replaceAll("-", "_")}${content === "features" ? "_features" : ""}`,
  });
  const [before, now] = [proposed(draft.of), proposed(of)];
  return {
    ...draft,
    of,
    name: draft.name === before.name ? now.name : draft.name,
    table: draft.table === before.table ? now.table : draft.table,
    ...(of === "features" ? { routes: [], reasons: 0 } : {}),
  };
}

/** The bounds with one of them changed; what is no bound stays in it, to be said when it is saved. */
function contractOf(contract: Delivery["contract"], name: string, value: unknown): Delivery["contract"] {
  const rest = Object.fromEntries(Object.entries(contract).filter(([each]) => each !== name));
  return {
    ...contractSchema.parse({}),
    ...rest,
    ...(value === undefined ? {} : { [name]: value }),
  } as Delivery["contract"];
}

function ColumnSelect({
  columns,
  value,
  onChange,
}: {
  readonly columns: readonly string[];
  readonly value: string | undefined;
  readonly onChange: (column: string) => void;
}) {
  return (
    <select className="field" value={value ?? ""} onChange={(event) => onChange(event.target.value)}>
      {value === undefined && <option value="">choose a column</option>}
      {[...new Set([...columns, ...(value ? [value] : [])])].map((name) => (
        <option key={name}>{name}</option>
      ))}
    </select>
  );
}
