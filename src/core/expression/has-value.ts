import { binary, cast, column, double, integer, text, truth, type Expression } from "./ast";
import { isNumber, type ValueType } from "../value-type";

/** A value as the file writes it. */
export type Scalar = string | number | boolean;

/** The values that a setting of the file lists, or the one it is. */
export const valuesOf = (setting: Scalar | readonly Scalar[] | undefined): readonly Scalar[] => {
  if (setting === undefined) return [];
  return typeof setting === "object" ? setting : [setting];
};

/** The constant that a value of the file is in a column of a type; undefined where the column cannot have it. */
function constantOf(type: ValueType, value: Scalar): Expression | undefined {
  if (type === "boolean") return typeof value === "boolean" ? truth(value) : undefined;
  if (!isNumber(type)) return text(String(value));
  if (typeof value !== "number") return undefined;
  return Number.isInteger(value) ? integer(value) : double(value);
}

/** Whether a column has one of some values of the file, with those that it cannot have. Columns that are no numbers are compared as text. */
export function hasOneOf(
  name: string,
  type: ValueType,
  values: readonly Scalar[],
): { readonly condition: Expression; readonly impossible: readonly Scalar[] } {
  const constants = values.map((value) => constantOf(type, value));
  const possible = constants.filter((constant) => constant !== undefined);
  const operand = comparable(name, type);
  return {
    condition:
      possible.length === 1
        ? binary(operand, "=", possible[0]!)
        : { kind: "in", operand, values: possible, negated: false },
    impossible: values.filter((_, index) => constants[index] === undefined),
  };
}

const comparable = (name: string, type: ValueType): Expression =>
  isNumber(type) || type === "boolean" ? column(name) : cast(column(name), "text");
