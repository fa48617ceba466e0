import { z } from "zod";
import { asNumbers, mapResultType } from "./map-results";
import { formatNumber } from "../format/numbers";
import { asDouble, column, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { asText, checkNewName, constantExpression, scalar, typedNull } from "./shared";
import { changed, defineStep, stepCommon, type StepKind } from "./step";

/** Values that one step replaces: the file stays readable, and so do the statements that hold them all. */
const MOST_VALUES = 5000;

const settings = z.strictObject({
  do: z.literal("map"),
  ...stepCommon,
  column: z.string().min(1).describe("The column whose values are replaced. Values are compared as text."),
  values: z
    .record(z.string(), scalar)
    .describe("Old value: new value. All new values are numbers, or all are texts."),
  rest: z
    .union([z.enum(["keep", "missing"]), z.strictObject({ constant: scalar })])
    .default("keep")
    .describe("What happens to unlisted values: they are kept, set to missing, or set to a constant."),
  missing: scalar.optional().describe("Replacement for missing values. They stay missing if omitted."),
  into: z
    .string()
    .min(1)
    .optional()
    .describe("A new column for the result. The column itself is replaced if omitted."),
});
type Settings = z.infer<typeof settings>;

function result(current: Settings): Expression {
  const numbers = asNumbers(current.values);
  const type = mapResultType(current) === "text" ? "text" : "double precision";
  const as = (value: Expression): Expression => (type === "text" ? asText(value) : asDouble(value));
  const rest = (): Expression => {
    if (current.rest === "keep") return as(column(current.column));
    return current.rest === "missing" ? typedNull(type) : as(constantExpression(current.rest.constant));
  };
  const otherwise = rest();
  const missing = current.missing === undefined ? typedNull(type) : as(constantExpression(current.missing));
  const entries =
    numbers ??
    Object.entries(current.values).map(([key, value]): readonly [string, string] => [key, String(value)]);
  return { kind: "lookup", operand: asText(column(current.column)), entries, missing, otherwise, type };
}

export const mapStep: StepKind = defineStep({
  kind: "map",
  title: "Map values",
  help: {
    about: "Replaces listed values.",
    words: ["recode", "replace", "lookup", "relabel", "dictionary", "codes"],
    missing: 'Missing stays missing, unless "missing" is set.',
    example: "column: carrier\nvalues: {Fern & Co: fern, FERN: fern}\nrest: keep",
  },
  settings,
  sentence: (current) =>
    `${formatNumber(Object.keys(current.values).length)} values of ${current.column} replaced`,
  check: (current, context) => {
    const found = context.column(current.column, ["column"]);
    const type = mapResultType(current);
    if (type === undefined)
      context.report(
        problem(
          "type_clash",
          "The new values mix numbers and texts.",
          "Use numbers only, or texts in quotes only.",
        ),
        ["values"],
      );
    const number = type === "double precision";
    if (found && current.rest === "keep" && number && (found.type === "text" || found.bundle))
      context.report(
        problem(
          "type_clash",
          `Values of "${current.column}" that are not listed would stay text among numbers.`,
          "Set rest: missing or a constant number.",
        ),
        ["rest"],
      );
    const listed = Object.keys(current.values).length;
    if (listed > MOST_VALUES)
      context.report(
        problem(
          "too_many_values",
          `${formatNumber(listed)} values are listed; a map takes at most ${formatNumber(MOST_VALUES)}.`,
          "Load them as a table of old and new values, and join it.",
        ),
        ["values"],
      );
    const name = current.into ?? current.column;
    if (current.into !== undefined) checkNewName(context, current.into, ["into"]);
    const nullable =
      (current.missing === undefined && (found?.nullable ?? true)) || current.rest === "missing";
    const written = context.written(name, { type: type ?? "text", nullable }, found ? [found] : []);
    return { output: changed(context.input, [written]), reads: [current.column], writes: [name], drops: [] };
  },
  apply: (current, input) =>
    withColumns(input, [{ name: current.into ?? current.column, expression: result(current) }]),
});
