import { z } from "zod";
import {
  call,
  cast,
  column,
  double,
  integer,
  NULL,
  text,
  truth,
  type Expression,
  type Order,
} from "../expression/ast";
import { problem } from "../problem";
import { isUsableIdentifier } from "../names/identifier";
import { isMoment, isNumber, type ValueType } from "../value-type";
import type { CheckContext, ColumnState } from "./step";

type Path = readonly (string | number)[];

/** A constant in a file. */
export const scalar = z.union([z.string(), z.number(), z.boolean()]);
export type Scalar = z.infer<typeof scalar>;

/** Columns, by name. */
export const columnNames = z.array(z.string().min(1)).min(1);

/** An order of rows: column names, each optionally from last to first. */
export const orderSetting = z.array(
  z.union([
    z.string().min(1),
    z.strictObject({ column: z.string().min(1), descending: z.boolean().default(false) }),
  ]),
);
export type OrderSetting = z.infer<typeof orderSetting>;

export const orderColumns = (order: OrderSetting): readonly string[] =>
  order.map((key) => (typeof key === "string" ? key : key.column));
export const orderOf = (order: OrderSetting): readonly Order[] =>
  order.map((key) =>
    typeof key === "string"
      ? { expression: column(key) }
      : { expression: column(key.column), descending: key.descending },
  );

/** A constant as an expression. */
export function constantExpression(value: Scalar): Expression {
  if (typeof value === "number")
    return Number.isInteger(value) && Math.abs(value) < 2 ** 31 ? integer(value) : double(value);
  return typeof value === "boolean" ? truth(value) : text(value);
}

export const typedNull = (type: ValueType): Expression => cast(NULL, type);
export const asText = (value: Expression): Expression => cast(value, "text");

/** The largest of several values, as an aggregate that exists for yes/no too. */
export const largestOf = (value: Expression, type: ValueType | undefined): Expression =>
  call(type === "boolean" ? "bool_or" : "max", value);

/** A number from a learned answer, or null where there was nothing to learn from. */
export const numberOrNull = (value: unknown): number | null =>
  value === null || value === undefined ? null : Number(value);

/** The named columns that exist; unknown ones are reported. */
export function existing(
  context: CheckContext,
  names: readonly string[],
  path: Path,
): readonly ColumnState[] {
  return names.flatMap((name, index) => context.column(name, [...path, index]) ?? []);
}

/** Families that a step can ask for: which types are of them, and what they are called in a message. */
const FAMILIES = {
  number: { has: isNumber, called: "a number" },
  moment: { has: isMoment, called: "a date or time" },
  text: { has: (type: ValueType) => type === "text", called: "text" },
} as const;

/** The named columns that exist and are of one family; others are reported with what the step needs. */
export function ofFamily(
  context: CheckContext,
  names: readonly string[],
  path: Path,
  wanted: keyof typeof FAMILIES,
  verb: string,
): readonly ColumnState[] {
  return names.flatMap((name, index) => {
    const found = context.column(name, [...path, index]);
    if (!found) return [];
    if (!FAMILIES[wanted].has(found.type) || found.bundle) {
      context.report(
        problem(
          "type_clash",
          `"${name}" is ${found.bundle ? "several one-hot columns" : found.type}, not ${FAMILIES[wanted].called}, and cannot be ${verb}.`,
          "Remove it here, or convert it in an earlier step.",
        ),
        [...path, index],
      );
    }
    return [found];
  });
}

/** Reports a new column whose name cannot be one, or is taken by a column that is not replaced. */
export function checkNewName(
  context: CheckContext,
  name: string,
  path: Path,
  replaces: readonly string[] = [],
): void {
  if (!isUsableIdentifier(name))
    context.report(
      problem(
        "bad_name",
        `"${name.slice(0, 40)}" is not a valid column name: at most 63 bytes.`,
        "Choose a shorter name.",
      ),
      path,
    );
  else if (context.input.has(name) && !replaces.includes(name))
    context.report(
      problem(
        "duplicate_column",
        `There would be two columns named "${name}".`,
        "Choose another name, or drop or rename the existing one first.",
      ),
      path,
    );
}
