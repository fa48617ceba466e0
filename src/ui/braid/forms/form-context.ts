import { createContext, useContext, type ReactNode } from "react";
import type { ColumnHere, Place } from "../places";

/** What every control of a form may need to know. */
export interface FormPlace {
  /** The place before the step. */
  readonly place: Place;
  readonly columns: readonly ColumnHere[];
  /** Other strands, with their columns at the end. */
  readonly strands: readonly { readonly name: string; readonly columns: readonly ColumnHere[] }[];
  /** Small pictures of the distributions of columns that are as in their table. */
  readonly marks: ReadonlyMap<string, ReactNode>;
  /** Settings of the step as they are. */
  readonly settings: Readonly<Record<string, unknown>>;
  /** Puts several settings at once. */
  readonly put: (changes: Readonly<Record<string, unknown>>) => void;
  /** Adds a strand that begins at a table, and gives its name. */
  readonly addTable: (table: string) => string | undefined;
}

export const FormContext = createContext<FormPlace | undefined>(undefined);

export function useForm(): FormPlace {
  const found = useContext(FormContext);
  if (!found) throw new Error("outside of a form");
  return found;
}
