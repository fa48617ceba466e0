"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import type { ReactNode } from "react";
import { FormProvider, useForm } from "react-hook-form";
import { deliverySchema, type Delivery } from "@/core/pipeline/operating-schema";
import { saveListed } from "@/server/file-actions";
import { DialogForm, FormDialog } from "../basic/form-dialog";
import { ContractFields } from "./contract-fields";
import { deliveryEntry, newDelivery, type DeliveryFacts } from "./delivery-draft";
import { DeliveryColumns, DeliveryExtras } from "./delivery-columns";
import { DeliveryRows } from "./delivery-rows";
import { DeliveryTarget } from "./delivery-target";

interface Props {
  readonly facts: DeliveryFacts;
  readonly delivery: Delivery | undefined;
  /** Place in the file; null for a new one. */
  readonly place: number | null;
}

/** Makes or changes a delivery: where predictions go, of which rows, with which columns, and its contract. */
export function DeliveryForm({ children, ...props }: Props & { readonly children: ReactNode }) {
  return (
    <FormDialog trigger={children}>
      <DeliveryFields {...props} />
    </FormDialog>
  );
}

function DeliveryFields({ facts, delivery, place }: Props) {
  const form = useForm<Delivery>({
    resolver: zodResolver(deliverySchema) as never,
    defaultValues: delivery ?? newDelivery(facts),
    mode: "onChange",
  });
  const [name, table] = form.watch(["name", "table"]);
  return (
    <FormProvider {...form}>
      <DialogForm
        title={place === null ? "New delivery" : `Delivery “${delivery?.name ?? ""}”`}
        incomplete={name.trim() === "" || table.trim() === ""}
        save={() =>
          saveListed({
            pipeline: facts.pipeline,
            part: "delivery",
            place,
            entry: deliveryEntry(form.getValues()),
          })
        }
      >
        <DeliveryTarget facts={facts} />
        <DeliveryRows facts={facts} />
        <DeliveryColumns facts={facts} />
        <DeliveryExtras facts={facts} />
        <ContractFields />
      </DialogForm>
    </FormProvider>
  );
}
