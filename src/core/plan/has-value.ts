import { binary, cast, column, double, integer, text, truth, type Expression } from "../expression/ast";
import { isNumber, type ValueType } from "../value-type";

/** The constant that a value of the file is in a column of a type; undefined where the column cannot have it. */
function constantOf(type: ValueType, value: string | number | boolean): Expression | undefined {
  if (type === "boolean") return typeof value === "boolean" ? truth(value) : undefined;
  if (!isNumber(type)) return text(String(value));
  if (typeof value !== "number") return undefined;
  return Number.isInteger(value) ? integer(value) : double(value);
}

/** Whether a column has a value of the file; undefined where it cannot. Columns that are no numbers are compared as text. */
export function hasValue(
  name: string,
  type: ValueType,
  value: string | number | boolean,
): Expression | undefined {
  const constant = constantOf(type, value);
  return constant && binary(comparable(name, type), "=", constant);
}

/** Whether a column has one of some values of the file, with those that it cannot have. */
export function hasOneOf(
  name: string,
  type: ValueType,
  values: readonly (string | number | boolean)[],
): { readonly condition: Expression; readonly impossible: readonly (string | number | boolean)[] } {
  const constants = values.map((value) => constantOf(type, value));
  return {
    condition: {
      kind: "in",
      operand: comparable(name, type),
      values: constants.filter((constant) => constant !== undefined),
      negated: false,
    },
    impossible: values.filter((_, index) => constants[index] === undefined),
  };
}

const comparable = (name: string, type: ValueType): Expression =>
  isNumber(type) || type === "boolean" ? column(name) : cast(column(name), "text");
