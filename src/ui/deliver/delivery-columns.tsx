"use client";
import { useFormContext } from "react-hook-form";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import type { DeliveryFacts } from "./delivery-draft";
import { HandOverFields } from "./hand-over-fields";
import { Select } from "../select/select";

/** Columns that are written besides the prediction's own. */
export function DeliveryColumns({ facts }: { readonly facts: DeliveryFacts }) {
  const { watch, setValue } = useFormContext<Delivery>();
  const [columns, of] = watch(["columns", "of"]);
  return (
    <FormLine
      label="more columns"
      says={
        of === "predictions"
          ? "Written in addition to key, prediction, probability, version, run and times."
          : "Written in addition to key, target, features, file version, run and times."
      }
    >
      <ul className="flex flex-wrap gap-1.5">
        {columns.map((name) => (
          <li key={name}>
            <button
              type="button"
              className="press py-0 text-caption"
              aria-label={`Leave out ${name}`}
              title="Remove it"
              onClick={() =>
                setValue(
                  "columns",
                  columns.filter((other) => other !== name),
                )
              }
            >
              {name} <span aria-hidden>×</span>
            </button>
          </li>
        ))}
        <li>
          <Select
            label="Add column"
            className="py-0 text-caption"
            value=""
            placeholder="add column …"
            options={facts.columns.filter((name) => !columns.includes(name))}
            onChange={(name) => setValue("columns", [...columns, name])}
          />
        </li>
      </ul>
    </FormLine>
  );
}

/** Threshold, reasons and receivers of a delivery. */
export function DeliveryExtras({ facts }: { readonly facts: DeliveryFacts }) {
  const { register, watch, setValue } = useFormContext<Delivery>();
  const [of, reasons, receivers] = watch(["of", "reasons", "hand_over"]);
  const predicts = of === "predictions";
  return (
    <>
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
            {...register("threshold", { valueAsNumber: true })}
          />
        </FormLine>
      )}
      {predicts && (
        <FormLine
          label="reasons"
          htmlFor="delivery-reasons"
          says={
            reasons > 0
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
            {...register("reasons", { valueAsNumber: true })}
          />
        </FormLine>
      )}
      <HandOverFields receivers={receivers} onChange={(next) => setValue("hand_over", next)} />
    </>
  );
}
