"use client";
import { useFormContext } from "react-hook-form";
import { contractSchema, type Delivery } from "@/core/pipeline/operating-schema";
import { settingProperties } from "@/core/setting-properties";
import { SchemaFields } from "../basic/schema-fields";
import { contractOf, deliveryEntry } from "./delivery-draft";

const CONTRACT = settingProperties(contractSchema);
/** What can be asked of rows that nothing predicts. */
const COUNTS = CONTRACT.filter(([name]) => ["least_rows", "most_rows"].includes(name));

/** What has to hold before anything is delivered. */
export function ContractFields() {
  const { watch, setValue } = useFormContext<Delivery>();
  const draft = watch();
  const values = deliveryEntry(draft)["contract"] as Readonly<Record<string, unknown>> | undefined;
  return (
    <>
      <h3 className="mb-2 mt-5 font-semibold">Contract</h3>
      <SchemaFields
        properties={draft.of === "predictions" ? CONTRACT : COUNTS}
        values={values ?? {}}
        onChange={(name, value) => setValue("contract", contractOf(draft.contract, name, value))}
      />
    </>
  );
}
