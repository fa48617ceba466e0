import type { ColumnHere } from "../places";
import type { Input } from "./field";
import { useForm } from "./form-context";

/** What the control of a setting is given. */
export interface SettingProps {
  readonly input: Input;
  readonly label: string;
  readonly value: unknown;
  /** undefined takes the setting out of the file. */
  readonly onChange: (value: unknown) => void;
  /** What counts when nothing is written. */
  readonly initial?: unknown;
  /** Values around this one, for controls that depend on another. */
  readonly around: Readonly<Record<string, unknown>>;
}

/** The same for one way of asking. */
export type SettingOf<K extends Input["as"]> = SettingProps & { readonly input: Extract<Input, { as: K }> };

/** The columns that can be chosen: those here, or those of the strand named by another setting. */
export function useColumns(there: string | undefined, around: SettingProps["around"]): readonly ColumnHere[] {
  const { columns, strands } = useForm();
  if (there === undefined) return columns;
  return strands.find(({ name }) => name === around[there])?.columns ?? [];
}
