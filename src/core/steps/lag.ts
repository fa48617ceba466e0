import { z } from "zod";
import { binary, column, isNotNull, when, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { isMoment, isNumber, type ValueType } from "../value-type";
import { checkPast } from "./past";
import { checkNewName, columnNames, existing, largestOf, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("lag"),
  ...stepCommon,
  columns: columnNames.describe("The columns to lag; they are kept."),
  order: z.string().min(1).describe("The column that orders rows in time."),
  by: z
    .array(z.string().min(1))
    .default([])
    .describe("Columns that identify the entity; each has its own history."),
  back: z
    .array(z.int().min(1).max(10_000))
    .min(1)
    .default([1])
    .describe(
      "How many distinct times back. Each adds a column NAME_lag_N, missing where there is no earlier time. Of several rows at one time, the largest value is used.",
    ),
  difference: z
    .boolean()
    .default(false)
    .describe("Also add NAME_change_N: the value minus the earlier one. For numbers and times."),
});
type Settings = z.infer<typeof settings>;

/** The value so many moments back. Moments, not rows, are counted, so that ties cannot make it arbitrary. */
function earlier(current: Settings, name: string, type: ValueType, back: number): Expression {
  const found: Expression = {
    kind: "window",
    call: largestOf(column(name), type),
    by: current.by.map((key) => column(key)),
    order: [{ expression: column(current.order) }],
    frame: { kind: "previous time", moments: back },
  };
  // Rows without a moment come last in the order, but nothing is before them.
  return when(isNotNull(column(current.order)), found, typedNull(type));
}

const differenceType = (type: ValueType): ValueType | undefined => {
  if (isNumber(type)) return type;
  if (type === "date") return "integer";
  if (isMoment(type)) return "interval";
  return undefined;
};

export const lagStep: StepKind = defineStep({
  kind: "lag",
  title: "Lagged values",
  help: {
    about: "Adds values of earlier times of the same entity.",
    words: ["lag", "shift", "previous", "window", "history", "earlier values"],
    missing: "Missing where there is no earlier time or its value is missing.",
    example: "columns: [parcels]\norder: day\nby: [site_id]\nback: [1, 7]",
  },
  regroups: true,
  settings,
  sentence: (current) =>
    `${listNames(current.columns)} ${listNames(current.back.map(String))} back${current.difference ? ", and the change since" : ""}`,
  check: (current, context) => {
    const order = checkPast(context, { order: current.order }, []);
    const by = existing(context, current.by, ["by"]);
    const written = existing(context, current.columns, ["columns"]).flatMap((found, index) => {
      if (found.bundle || ["json", "other", "uuid", "sparse"].includes(found.type))
        context.report(
          problem(
            "type_clash",
            `"${found.name}" is ${found.bundle ? "several columns" : found.type} and has no earlier value.`,
            "Remove it here.",
          ),
          ["columns", index],
        );
      const change = current.difference ? differenceType(found.type) : undefined;
      if (current.difference && !change)
        context.report(
          problem(
            "type_clash",
            `"${found.name}" is ${found.type} and has no difference.`,
            "Remove it here, or set difference: false.",
          ),
          ["columns", index],
        );
      return current.back.flatMap((back) => {
        const names = [`${found.name}_lag_${back}`, ...(change ? [`${found.name}_change_${back}`] : [])];
        return names.map((name, which) => {
          checkNewName(context, name, ["columns", index]);
          return context.written(name, { type: which === 0 ? found.type : change!, nullable: true }, [
            found,
            ...order,
            ...by,
          ]);
        });
      });
    });
    return {
      output: changed(context.input, written),
      reads: [...new Set([...current.columns, current.order, ...current.by])],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (current, input, _learned, context) => {
    const present = outputColumns(input);
    const lags = current.columns
      .filter((name) => present.includes(name))
      .flatMap((name) =>
        current.back.map((back) => ({ name, back, type: context.input.get(name)?.type ?? "text" })),
      );
    const lagged = withColumns(
      input,
      lags.map(({ name, back, type }) => ({
        name: `${name}_lag_${back}`,
        expression: earlier(current, name, type, back),
      })),
    );
    if (!current.difference) return lagged;
    return withColumns(
      lagged,
      lags.map(({ name, back }) => ({
        name: `${name}_change_${back}`,
        expression: binary(column(name), "-", column(`${name}_lag_${back}`)),
      })),
    );
  },
});
