"use client";
import { useFormContext } from "react-hook-form";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { ColumnSelect } from "./column-select";
import { carriedColumns, type DeliveryFacts } from "./delivery-draft";
import { ROWS } from "./delivery-words";

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
      <select
        id="delivery-rows"
        className="field"
        value={newerBy === undefined ? String(draft.rows) : "newer"}
        onChange={(event) => choose(event.target.value)}
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
            onChange={(column) => setValue("rows", { newer_by: column })}
          />
        </label>
      )}
    </FormLine>
  );
}
