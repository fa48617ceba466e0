"use client";
import type { ComponentProps } from "react";
import { useId } from "react";
import type { FieldError } from "react-hook-form";

interface Props extends ComponentProps<"input"> {
  readonly label: string;
  readonly error: FieldError | undefined;
}

/** A field of a form with its label above and what is wrong with it beneath. */
export function TextField({ label, error, className = "", ...input }: Props) {
  const id = useId();
  return (
    <div className="text-caption">
      <label htmlFor={id}>{label}</label>
      <input
        {...input}
        id={id}
        className={`field mt-0.5 block text-body ${className}`}
        aria-invalid={error !== undefined}
        aria-describedby={`${id}-error`}
      />
      <p id={`${id}-error`} role="status" className="text-madder empty:hidden">
        {error?.message}
      </p>
    </div>
  );
}
