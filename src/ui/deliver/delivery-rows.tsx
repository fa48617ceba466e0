"use client";
import { useFormContext } from "react-hook-form";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { ColumnSelect } from "./column-select";
import { carriedColumns, type DeliveryFacts } from "./delivery-draft";
import { ROWS } from "./delivery-words";
import { Select } from "../select/select";

/** Which rows are delivered: all, those that are not there yet, or those newer by a column. */
export function DeliveryRows({ facts }: { readonly facts: DeliveryFacts }) {
  const { watch, setValue } = useFormContext<Delivery>();
  const draft = watch();
  const carried = carriedColumns(draft, facts);
  const newerBy = typeof draft.rows === "object" ? draft.rows.newer_by : undefined;
  const choose = (rows: string): void =>
    setValue(
      "rows",
      rows === "newer" ? { newer_by: carried[0] ?? "" } : (rows as "all" | "not_yet_predicted"),
    );
  return (
    <FormLine
      label="rows"
      htmlFor="delivery-rows"
      says={
        draft.rows === "all"
          ? undefined
          : "With a schedule that runs when rows arrive, each row is scored soon after it arrives."
      }
    >
      <Select
        id="delivery-rows"
        label="rows"
        value={newerBy === undefined ? String(draft.rows) : "newer"}
        options={[
          { value: "all", label: ROWS[draft.of].all },
          { value: "not_yet_predicted", label: ROWS[draft.of].not_yet_predicted },
          { value: "newer", label: "rows newer than those delivered" },
        ]}
        onChange={choose}
      />
      {newerBy !== undefined && (
        <label className="ml-3">
          by{" "}
          <ColumnSelect
            label="by"
            columns={carried}
            value={newerBy}
            onChange={(column) => setValue("rows", { newer_by: column })}
          />
        </label>
      )}
    </FormLine>
  );
}
