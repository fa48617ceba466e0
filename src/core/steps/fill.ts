import { z } from "zod";
import { call, cast, column, double, integer, isNull, text, truth, when, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns, type NamedExpression } from "../relation/relation";
import { isNumber, type ValueType } from "../value-type";
import { changed, defineStep, listNames, stepCommon, type ColumnState, type StepKind } from "./step";

const constant = z.union([z.number(), z.string(), z.boolean()]);
const settings = z.strictObject({
  do: z.literal("fill"),
  ...stepCommon,
  columns: z.array(z.string()).min(1).describe("The columns whose missing values are filled."),
  with: z.union([z.enum(["median", "mean", "most_frequent"]), z.strictObject({ constant })]).describe("Median, mean and most frequent value are learned on training rows only; a constant is used as it is."),
  indicator: z.boolean().default(false).describe("Also add a column NAME_missing that is 1 where a value was filled."),
});
type Settings = z.infer<typeof settings>;

const learnedSchema = z.object({ values: z.record(z.string(), z.union([z.number(), z.string(), z.null()])), types: z.record(z.string(), z.string()) });
type Learned = z.infer<typeof learnedSchema>;

const indicatorName = (name: string): string => `${name}_missing`;

function resultType(current: Settings, type: ValueType): ValueType {
  if (current.with === "median" || current.with === "mean") return "double precision";
  if (typeof current.with !== "string" && typeof current.with.constant === "number" && isNumber(type)) return Number.isInteger(current.with.constant) ? type : "double precision";
  return type;
}

/** The learned value of a column, or NULL where there was nothing to learn from. */
function fillValue(current: Settings, learned: Learned | undefined, name: string): Expression | undefined {
  if (typeof current.with !== "string") {
    const value = current.with.constant;
    if (typeof value === "number") return Number.isInteger(value) ? integer(value) : double(value);
    return typeof value === "boolean" ? truth(value) : text(value);
  }
  const value = learned?.values[name];
  if (value === undefined || value === null) return undefined;
  if (typeof value === "number") return double(value);
  const type = learned?.types[name] as ValueType | undefined;
  return type && type !== "text" && type !== "other" ? cast(text(value), type) : text(value);
}

export const fillStep: StepKind = defineStep({
  kind: "fill",
  title: "Fill missing values",
  settings,
  sentence: (current) => `fill ${listNames(current.columns)} with ${typeof current.with === "string" ? `the ${current.with.replace("_", " ")}` : JSON.stringify(current.with.constant)}`,
  check: (current, context) => {
    const written: ColumnState[] = [];
    for (const [index, name] of current.columns.entries()) {
      const path = ["columns", index];
      const found = context.column(name, path);
      if (!found) continue;
      if (found.bundle) context.report(problem("bundle_read", `"${name}" stands for several indicator columns; they have no missing values.`, "Fill it before the encode step."), path);
      if ((current.with === "median" || current.with === "mean") && !isNumber(found.type)) {
        context.report(problem("type_clash", `"${name}" is ${found.type}; a ${current.with} exists for numbers only.`, "Use with: most_frequent, or a constant."), path);
      }
      if (typeof current.with !== "string") {
        const fits = typeof current.with.constant === "number" ? isNumber(found.type) : typeof current.with.constant === "boolean" ? found.type === "boolean" : !isNumber(found.type) && found.type !== "boolean";
        if (!fits) context.report(problem("type_clash", `"${name}" is ${found.type}; ${JSON.stringify(current.with.constant)} does not fit.`, `Give a constant of type ${found.type}.`), path);
      }
      written.push(context.written(name, { type: resultType(current, found.type), nullable: false }, [found]));
      if (current.indicator) {
        if (context.input.has(indicatorName(name))) context.report(problem("duplicate_column", `There would be two columns named "${indicatorName(name)}".`, "Rename the existing one first."), path);
        written.push(context.written(indicatorName(name), { type: "integer", nullable: false }, [found]));
      }
    }
    return { output: changed(context.input, written), reads: current.columns, writes: written.map((each) => each.name), drops: [] };
  },
  learn: {
    when: (current) => typeof current.with === "string",
    schema: learnedSchema,
    question: (current, _input, types) => ({
      measures: current.columns.flatMap((name): NamedExpression[] => {
        const value = column(name);
        const type = text(types.get(name)?.type ?? "text");
        const learn: Expression =
          current.with === "mean" ? cast(call("avg", cast(value, "double precision")), "double precision")
          : current.with === "median" ? { ...call("percentile_cont", double(0.5)), withinGroup: cast(value, "double precision") }
          : cast({ ...call("mode"), withinGroup: value }, "text");
        return [{ name: `v:${name}`, expression: learn }, { name: `t:${name}`, expression: call("min", cast(type, "text")) }];
      }),
    }),
    decode: (current, row) => ({
      values: Object.fromEntries(current.columns.map((name) => [name, (row[`v:${name}`] ?? null) as number | string | null])),
      types: Object.fromEntries(current.columns.map((name) => [name, String(row[`t:${name}`] ?? "text")])),
    }),
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    const changes = current.columns.filter((name) => present.includes(name)).flatMap((name): NamedExpression[] => {
      const value = fillValue(current, learned, name);
      const own = current.with === "median" || current.with === "mean" ? cast(column(name), "double precision") : column(name);
      const filled = { name, expression: value ? call("coalesce", own, value) : own };
      const flag = { name: indicatorName(name), expression: when(isNull(column(name)), integer(1), integer(0)) };
      return current.indicator ? [filled, flag] : [filled];
    });
    return withColumns(input, changes);
  },
});
