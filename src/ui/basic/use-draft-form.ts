"use client";
import { zodResolver } from "@hookform/resolvers/zod";
import { useEffect } from "react";
import {
  useForm,
  type DefaultValues,
  type FieldErrors,
  type FieldValues,
  type Path,
  type PathValue,
} from "react-hook-form";
import type { z } from "zod";

/**
 * A form whose fields depend on each other: they are set by controls of their own, and are checked together.
 *
 * @param schema what is checked, with the words at each field
 * @param first what the form holds at first
 */
export function useDraftForm<Values extends FieldValues>(schema: z.ZodType<Values>, first: Values) {
  const { watch, setValue, reset, trigger, handleSubmit, formState } = useForm<Values>({
    resolver: zodResolver(schema as never) as never,
    defaultValues: first as DefaultValues<Values>,
  });
  useEffect(() => void trigger(), [trigger]);
  const change = (changed: Partial<Values>): void => {
    for (const [field, value] of Object.entries(changed))
      setValue(field as Path<Values>, value as PathValue<Values, Path<Values>>, { shouldDirty: true });
    void trigger();
  };
  const startOver = (values: Values): void => {
    reset(values);
    void trigger();
  };
  return {
    draft: watch() as Values,
    change,
    startOver,
    handleSubmit,
    errors: formState.errors,
    /** What is wrong, in words, by field; of a field with parts nothing is said here. */
    mistakes: messagesOf(formState.errors),
    isValid: formState.isValid,
  };
}

const messagesOf = <Values extends FieldValues>(
  errors: FieldErrors<Values>,
): Readonly<Partial<Record<keyof Values, string>>> =>
  Object.fromEntries(
    Object.entries(errors).flatMap(([field, error]) =>
      typeof error?.message === "string" ? [[field, error.message]] : [],
    ),
  ) as Partial<Record<keyof Values, string>>;
