"use client";
import { useFormContext } from "react-hook-form";
import type { Delivery, DeliveryMode } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { ColumnSelect } from "./column-select";
import { carriedColumns, withContent, type DeliveryFacts } from "./delivery-draft";
import { MODES, OF_WORDS } from "./delivery-words";
import { RouteFields } from "./route-fields";

/** What is delivered, into which tables, and how rows get in. */
export function DeliveryTarget({ facts }: { readonly facts: DeliveryFacts }) {
  const { register, watch, setValue, getValues, reset } = useFormContext<Delivery>();
  const draft = watch();
  const predicts = draft.of === "predictions";
  const carried = carriedColumns(draft, facts);
  return (
    <>
      <FormLine label="name" htmlFor="delivery-name">
        <input id="delivery-name" className="field w-80" {...register("name")} />
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
          onChange={(event) =>
            reset(withContent(getValues(), event.target.value as Delivery["of"], facts), {
              keepDefaultValues: true,
            })
          }
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
        <input id="delivery-table" className="field figure w-80" {...register("table")} />
      </FormLine>
      {predicts && (
        <RouteFields
          routes={draft.routes}
          schema={facts.schema}
          carried={carried}
          onChange={(routes) => setValue("routes", routes)}
        />
      )}
      <FormLine label="how" htmlFor="delivery-mode">
        <select
          id="delivery-mode"
          className="field"
          value={draft.mode}
          onChange={(event) => setValue("mode", event.target.value as DeliveryMode)}
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
              onChange={(column) => setValue("partition", column)}
            />
          </label>
        )}
      </FormLine>
    </>
  );
}
