import { formatNumber } from "../format/numbers";
import { z } from "zod";
import { allOf, binary, column, text, type Expression } from "../expression/ast";
import { columnsOf, mapExpression } from "../expression/visit";
import { FUNCTIONS } from "../expression/functions";
import { problem } from "../problem";
import { aggregateRows } from "../relation/relation";
import { asText, checkNewName, columnNames, existing, scalar } from "./shared";
import {
  changed,
  defineStep,
  expressionText,
  listNames,
  stepCommon,
  type ColumnState,
  type StepKind,
} from "./step";

/** More columns than this are not a table any more that a person reads; PostgreSQL's own limit is 1,600. */
export const MOST_PIVOT_COLUMNS = 500;

const settings = z.strictObject({
  do: z.literal("pivot"),
  ...stepCommon,
  by: columnNames.describe("One row comes out for each combination of these columns."),
  column: z
    .string()
    .min(1)
    .describe("The column whose values become columns. Rows where it is missing are in no column."),
  values: z
    .array(scalar)
    .min(1)
    .describe(
      "The values that become columns. They are fixed, so new values do not change the table's columns.",
    ),
  measures: z
    .record(z.string().min(1), expressionText)
    .describe(
      "SQL aggregates; each gives a column NAME_VALUE for every value, such as count(*) under the name parcels: parcels_S.",
    ),
  rest: z.boolean().default(false).describe("true: adds a column NAME_rest for unlisted values."),
});
type Settings = z.infer<typeof settings>;

const REST = "rest";

interface PivotedColumn {
  readonly name: string;
  readonly condition: Expression;
  readonly measure: string;
}

function pivoted(current: Settings): readonly PivotedColumn[] {
  const value = asText(column(current.column));
  const listed = current.values.map((value) => text(String(value)));
  const places = [
    ...current.values.map((wanted, index) => ({
      label: String(wanted),
      condition: binary(value, "=", listed[index]!),
    })),
    ...(current.rest
      ? [
          {
            label: REST,
            condition: { kind: "in", operand: value, values: listed, negated: true } as Expression,
          },
        ]
      : []),
  ];
  return Object.keys(current.measures).flatMap((measure) =>
    places.map(({ label, condition }) => ({ name: `${measure}_${label}`, condition, measure })),
  );
}

/** Restricts every aggregate of a measure to the rows of one value. */
const restricted = (measure: Expression, condition: Expression): Expression =>
  mapExpression(measure, (node) =>
    node.kind === "call" && FUNCTIONS[node.name]?.aggregate
      ? { ...node, filter: node.filter ? allOf([node.filter, condition]) : condition }
      : node,
  );

export const pivotStep: StepKind = defineStep({
  kind: "pivot",
  title: "Pivot",
  help: {
    about: "Aggregates rows by group, with one column per value of a column.",
    words: ["crosstab", "wide", "columns", "transpose"],
    missing:
      "Rows where the column is missing are in no column. A combination without rows counts 0 and is otherwise missing.",
    example:
      "by: [site_id, day]\ncolumn: size_class\nvalues: [S, M, L]\nmeasures: {parcels: count(*)}\nrest: true",
  },
  regroups: true,
  settings,
  sentence: (current) =>
    `${listNames(Object.keys(current.measures))} by ${listNames(current.by)}, a column for each of ${current.values.length} ${current.column}`,
  check: (current, context) => {
    const keys = existing(context, current.by, ["by"]);
    const wanted = context.column(current.column, ["column"]);
    const output = new Map<string, ColumnState>(keys.map((key) => [key.name, key]));
    const reads = new Set([...current.by, current.column]);
    const columns = pivoted(current);
    if (columns.length > MOST_PIVOT_COLUMNS)
      context.report(
        problem(
          "too_many_columns",
          `This would create ${formatNumber(columns.length)} columns; at most ${MOST_PIVOT_COLUMNS} are allowed.`,
          "List the values that matter and set rest: true, or group rare ones in an earlier step.",
        ),
        ["values"],
      );
    if (new Set(current.values.map(String)).size < current.values.length)
      context.report(problem("duplicate_name", "A value is listed twice.", "List each once."), ["values"]);
    for (const [name, source] of Object.entries(current.measures)) {
      const path = ["measures", name];
      const found = context.expression(source, path, { aggregates: "required" });
      if (!found) continue;
      const bad = [...aggregatesOf(found.expression)].find((aggregate) => FUNCTIONS[aggregate]?.ordersItself);
      if (bad)
        context.report(
          problem(
            "cannot_pivot",
            `${bad}() cannot be restricted to the rows of one value.`,
            "Use another aggregate, or filter and join instead.",
          ),
          path,
        );
      const read = columnsOf(found.expression);
      for (const text of read) reads.add(text);
      const from = [...read.flatMap((text) => context.input.get(text) ?? []), ...(wanted ? [wanted] : [])];
      for (const column of columns.filter((one) => one.measure === name)) {
        if (!output.has(column.name)) checkNewName(context, column.name, path, [...context.input.keys()]);
        else
          context.report(
            problem(
              "duplicate_column",
              `There would be two columns named "${column.name}".`,
              "Rename the measure.",
            ),
            path,
          );
        output.set(column.name, context.written(column.name, found.checked, from));
      }
    }
    const writes = columns.map((column) => column.name).filter((name) => output.has(name));
    return {
      output: changed(output, []),
      reads: [...reads],
      writes,
      drops: [...context.input.keys()].filter((name) => !output.has(name)),
    };
  },
  apply: (current, input, _learned, context) =>
    aggregateRows(
      input,
      current.by,
      pivoted(current).map((column) => ({
        name: column.name,
        expression: restricted(context.expression(current.measures[column.measure]!), column.condition),
      })),
    ),
});

function aggregatesOf(expression: Expression): ReadonlySet<string> {
  const names = new Set<string>();
  mapExpression(expression, (node) => {
    if (node.kind === "call") names.add(node.name);
    return node;
  });
  return names;
}

export const unpivotStep: StepKind = defineStep({
  kind: "unpivot",
  title: "Unpivot",
  help: {
    about: "Turns each listed column into a row.",
    words: ["long", "rows", "transpose", "wide to long"],
    missing: "Missing values are skipped, unless missing: keep.",
    example: "columns: [rain_mm, temperature_c]\nname_into: what\nvalue_into: reading",
  },
  regroups: true,
  settings: z.strictObject({
    do: z.literal("unpivot"),
    ...stepCommon,
    columns: columnNames.describe("Columns that become rows."),
    name_into: z.string().min(1).default("name").describe("New column for the source column's name."),
    value_into: z.string().min(1).default("value").describe("New column for the value."),
    missing: z.enum(["drop", "keep"]).default("drop").describe("Whether missing values become rows."),
  }),
  sentence: (current) => `a row for each of ${listNames(current.columns)}`,
  check: (current, context) => {
    const found = existing(context, current.columns, ["columns"]);
    const types = new Set(found.map((column) => column.type));
    const bundle = found.find((column) => column.bundle);
    if (bundle)
      context.report(
        problem(
          "bundle_read",
          `"${bundle.name}" stands for several columns.`,
          "Unpivot before it is encoded.",
        ),
        ["columns"],
      );
    if (types.size > 1)
      context.report(
        problem(
          "type_clash",
          `The columns are ${[...types].join(" and ")}, but a column has one type.`,
          "Convert them to one type in an earlier step.",
        ),
        ["columns"],
      );
    const output = new Map([...context.input].filter(([name]) => !current.columns.includes(name)));
    const written = [
      context.written(current.name_into, { type: "text", nullable: false }, []),
      context.written(
        current.value_into,
        {
          type: found[0]?.type ?? "text",
          nullable: current.missing === "keep" && found.some((column) => column.nullable),
        },
        found,
      ),
    ];
    for (const [index, column] of written.entries()) {
      checkNewName(context, column.name, [index === 0 ? "name_into" : "value_into"], current.columns);
      output.set(column.name, column);
    }
    return {
      output,
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: current.columns.filter((name) => !output.has(name)),
    };
  },
  apply: (current, input, _learned, context) => {
    const keep = [...context.input.keys()].filter((name) => !current.columns.includes(name));
    const rows = {
      kind: "unpivot" as const,
      input,
      keep,
      columns: current.columns.map((name) => ({ name, expression: column(name) })),
      nameColumn: current.name_into,
      valueColumn: current.value_into,
    };
    return current.missing === "keep"
      ? rows
      : {
          kind: "filter",
          input: rows,
          condition: { kind: "is", operand: column(current.value_into), test: "null", negated: true },
        };
  },
});
