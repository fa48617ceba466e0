import { z } from "zod";
import { asDouble, binary, call, column, double, isNotNull, when, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { columnNames, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const METHODS = ["log", "log1p", "signed_log", "sqrt", "power"] as const;

const settings = z.strictObject({
  do: z.literal("transform"),
  ...stepCommon,
  columns: columnNames.describe("The number columns to transform. Missing values stay missing."),
  method: z
    .enum(METHODS)
    .describe(
      "log: natural logarithm. log1p: log(1 + x). signed_log: sign(x) * log(1 + |x|), for any number. sqrt: square root. power: x to the exponent.",
    ),
  exponent: z.number().optional().describe("For method: power."),
  outside: z
    .enum(["missing", "stop"])
    .default("missing")
    .describe("Values without a result, such as the logarithm of 0: set to missing, or stop the run."),
});
type Settings = z.infer<typeof settings>;

/** Where a power of x is a real number; everywhere, when nothing is returned. */
function domainOfPower(x: Expression, exponent: number): Expression | undefined {
  const zero = double(0);
  if (Number.isInteger(exponent)) return exponent < 0 ? binary(x, "<>", zero) : undefined;
  return binary(x, exponent < 0 ? ">" : ">=", zero);
}

/** Where the method has a value, and the value there. */
function method(
  current: Settings,
  x: Expression,
): { readonly domain?: Expression; readonly value: Expression } {
  const onePlus = (value: Expression): Expression => binary(double(1), "+", value);
  switch (current.method) {
    case "log":
      return { domain: binary(x, ">", double(0)), value: call("ln", x) };
    case "log1p":
      return { domain: binary(x, ">", double(-1)), value: call("ln", onePlus(x)) };
    case "signed_log":
      return { value: binary(call("sign", x), "*", call("ln", onePlus(call("abs", x)))) };
    case "sqrt":
      return { domain: binary(x, ">=", double(0)), value: call("sqrt", x) };
    case "power": {
      const exponent = current.exponent ?? 1;
      const domain = domainOfPower(x, exponent);
      return { value: call("power", x, double(exponent)), ...(domain ? { domain } : {}) };
    }
  }
}

export const transformStep: StepKind = defineStep({
  kind: "transform",
  title: "Log or power transform",
  help: {
    about: "Applies a logarithm, root or power to numbers.",
    words: ["logarithm", "root", "power", "skew", "exponent", "log and power"],
    missing: "Missing stays missing. A number without a result is set to missing, or stops the run.",
    example: "columns: [weight_g]\nmethod: log1p",
  },
  settings,
  sentence: (current) =>
    `${current.method === "power" ? `power ${current.exponent ?? "?"}` : current.method.replace("_", " ")} of ${listNames(current.columns)}`,
  check: (current, context) => {
    if ((current.method === "power") !== (current.exponent !== undefined))
      context.report(
        problem(
          "bad_setting",
          current.method === "power" ? "A power needs an exponent." : "Only method: power takes an exponent.",
          current.method === "power" ? "Add exponent: 2, for example." : "Remove it.",
        ),
        ["method"],
      );
    const written = ofFamily(context, current.columns, ["columns"], "number", "transformed").map((found) =>
      context.written(
        found.name,
        {
          type: "double precision",
          nullable: found.nullable || method(current, column(found.name)).domain !== undefined,
        },
        [found],
      ),
    );
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (current, input) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const { domain, value } = method(current, asDouble(column(name)));
          return { name, expression: domain ? when(domain, value, typedNull("double precision")) : value };
        }),
    );
  },
  requirements: (current, _context, input) => {
    if (current.outside !== "stop") return [];
    return current.columns.flatMap((name) => {
      const { domain } = method(current, asDouble(column(name)));
      if (!domain) return [];
      const rows = {
        kind: "filter" as const,
        input,
        condition: binary(isNotNull(column(name)), "and", { kind: "not", operand: domain } as Expression),
      };
      return [
        {
          code: "outside_domain",
          rows: { kind: "project" as const, input: rows, items: [{ name, expression: column(name) }] },
          message: `"${name}" has values without a ${current.method.replace("_", " ")}`,
          hint: "Filter or clip them in an earlier step, or set outside: missing.",
        },
      ];
    });
  },
});
