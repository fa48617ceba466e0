"use client";
import { useFormContext } from "react-hook-form";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { ColumnSelect } from "./column-select";
import { carriedColumns, withContent, type DeliveryFacts } from "./delivery-draft";
import { MODES, OF_WORDS } from "./delivery-words";
import { RouteFields } from "./route-fields";
import { Select } from "../select/select";
import { labelledOptions } from "../select/options";

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
        <Select
          id="delivery-of"
          label="what"
          value={draft.of}
          options={labelledOptions(OF_WORDS)}
          onChange={(of) => reset(withContent(getValues(), of, facts), { keepDefaultValues: true })}
        />
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
        <Select
          id="delivery-mode"
          label="how"
          value={draft.mode}
          options={labelledOptions(MODES)}
          onChange={(mode) => setValue("mode", mode)}
        />
        {draft.mode === "partition" && (
          <label className="ml-3">
            partition column{" "}
            <ColumnSelect
              label="partition column"
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
