"use client";
import type { ComponentProps } from "react";
import { useController, type Control, type FieldPath, type FieldValues } from "react-hook-form";
import { Select } from "./select";

type Props<Values extends FieldValues> = Omit<
  ComponentProps<typeof Select<string>>,
  "value" | "onChange" | "buttonRef"
> & {
  readonly control: Control<Values>;
  /** The field of the form that it sets. */
  readonly name: FieldPath<Values>;
};

/** A select that is a field of a form. */
export function FieldSelect<Values extends FieldValues>({ control, name, ...select }: Props<Values>) {
  const { field } = useController({ control, name });
  return <Select {...select} value={field.value as string} onChange={field.onChange} buttonRef={field.ref} />;
}
