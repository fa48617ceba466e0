import { hidden } from "../names/hidden";
import { z } from "zod";
import {
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  isNotNull,
  isNull,
  text,
  type Expression,
} from "../expression/ast";
import { problem } from "../problem";
import {
  aggregateRows,
  filter,
  keepColumns,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";
import { areComparable, isMoment, isNumber } from "../value-type";
import { asText, columnNames, constantExpression, scalar } from "./shared";
import {
  defineStep,
  listNames,
  stepCommon,
  type ApplyContext,
  type CheckContext,
  type StepKind,
} from "./step";

const settings = z.strictObject({
  do: z.literal("check"),
  ...stepCommon,
  not_missing: columnNames.optional().describe("These columns must have no missing values."),
  unique: columnNames.optional().describe("These columns must be unique in combination."),
  range: z
    .strictObject({
      column: z.string().min(1),
      least: z.union([z.number(), z.string()]).optional(),
      most: z.union([z.number(), z.string()]).optional(),
    })
    .optional()
    .describe("Values must be between least and most; missing values are allowed."),
  one_of: z
    .strictObject({ column: z.string().min(1), values: z.array(scalar).min(1) })
    .optional()
    .describe("Values must be among these; missing values are allowed."),
  found_in: z
    .strictObject({
      column: z.string().min(1),
      strand: z.string().min(1),
      there: z.string().min(1).optional(),
    })
    .optional()
    .describe("Values must occur in a column of another strand; missing values are allowed."),
  rows: z
    .strictObject({ least: z.int().min(0).optional(), most: z.int().min(0).optional() })
    .optional()
    .describe("Required number of rows."),
  fresh: z
    .strictObject({
      column: z.string().min(1),
      within: z
        .string()
        .regex(/^\d{1,6} (minute|hour|day|week|month)s?$/, "a number and a unit, such as 26 hours"),
    })
    .optional()
    .describe("Maximum age of the newest value at the time of the run."),
  otherwise: z.enum(["warn", "stop"]).default("stop").describe("What happens when the check fails."),
});
type Settings = z.infer<typeof settings>;

const KINDS = ["not_missing", "unique", "range", "one_of", "found_in", "rows", "fresh"] as const;

function sentence(current: Settings): string {
  if (current.not_missing) return `${listNames(current.not_missing)} never missing`;
  if (current.unique) return `${listNames(current.unique)} unique`;
  if (current.range)
    return `${current.range.column} from ${current.range.least ?? "any"} to ${current.range.most ?? "any"}`;
  if (current.one_of)
    return `${current.one_of.column} one of ${listNames(current.one_of.values.map(String))}`;
  if (current.found_in) return `${current.found_in.column} found in ${current.found_in.strand}`;
  if (current.rows) return `${current.rows.least ?? 0} to ${current.rows.most ?? "any number of"} rows`;
  return current.fresh ? `${current.fresh.column} within ${current.fresh.within}` : "nothing";
}

/** Columns that a check looks at, with the places of their names in the file. */
function columnsChecked(
  current: Settings,
): readonly (readonly [name: string, path: readonly (string | number)[]])[] {
  const listed = (key: "not_missing" | "unique") =>
    (current[key] ?? []).map((name, index): readonly [string, readonly (string | number)[]] => [
      name,
      [key, index],
    ]);
  const single = (["range", "one_of", "found_in", "fresh"] as const).flatMap(
    (key): (readonly [string, readonly string[]])[] => {
      const part = current[key];
      return part ? [[part.column, [key, "column"]]] : [];
    },
  );
  return [...listed("not_missing"), ...listed("unique"), ...single];
}

function checkTypes(current: Settings, context: CheckContext): void {
  const state = (name: string) => context.input.get(name);
  const { range, fresh, found_in: found } = current;
  const ranged = range && state(range.column);
  if (ranged && !isNumber(ranged.type) && !isMoment(ranged.type))
    context.report(
      problem(
        "type_clash",
        `"${ranged.name}" is ${ranged.type} and has no range.`,
        "Use one_of, or convert it.",
      ),
      ["range"],
    );
  for (const bound of ["least", "most"] as const) {
    const value = range?.[bound];
    if (!ranged || value === undefined) continue;
    const good = isNumber(ranged.type)
      ? typeof value === "number"
      : typeof value === "string" && !Number.isNaN(Date.parse(value));
    if (!good)
      context.report(
        problem(
          "type_clash",
          `${JSON.stringify(value)} does not fit "${ranged.name}", which is ${ranged.type}.`,
          isNumber(ranged.type) ? "Give a number." : "Give a date such as 2026-05-01, in quotes.",
        ),
        ["range", bound],
      );
  }
  const dated = fresh && state(fresh.column);
  if (dated && !isMoment(dated.type))
    context.report(
      problem(
        "type_clash",
        `"${dated.name}" is ${dated.type}, not a date or time.`,
        "Name a date or time column.",
      ),
      ["fresh", "column"],
    );
  if (!found) return;
  const there = context.strand(found.strand, ["found_in", "strand"]);
  const other = there?.get(found.there ?? found.column);
  const own = state(found.column);
  if (there && !other)
    context.report(
      problem(
        "unknown_column",
        `The strand "${found.strand}" has no column "${found.there ?? found.column}".`,
        `It has: ${[...there.keys()].slice(0, 8).join(", ")}.`,
      ),
      ["found_in"],
    );
  if (own && other && !areComparable(own.type, other.type))
    context.report(
      problem(
        "type_clash",
        `"${own.name}" is ${own.type}, but ${other.type} in ${found.strand}.`,
        "Convert one of them.",
      ),
      ["found_in"],
    );
}

const outsideOf = (value: Expression, current: NonNullable<Settings["range"]>): Expression => {
  const bound = (limit: number | string): Expression =>
    typeof limit === "number" ? double(limit) : cast(text(limit), "timestamptz");
  const conditions = [
    ...(current.least === undefined ? [] : [binary(value, "<", bound(current.least))]),
    ...(current.most === undefined ? [] : [binary(value, ">", bound(current.most))]),
  ];
  return conditions.reduce((left, right) => binary(left, "or", right));
};

/** The rows that break the check, as a relation that must be empty. */
function breaking(current: Settings, input: Relation, context: ApplyContext): Relation | undefined {
  const counted = (measure: NamedExpression, condition: Expression): Relation =>
    filter(aggregateRows(input, [], [measure]), condition);
  if (current.not_missing) {
    const missing = current.not_missing
      .map((name) => isNull(column(name)))
      .reduce((left, right) => binary(left, "or", right));
    return keepColumns(
      filter(input, missing),
      [...context.input]
        .filter(([, state]) => !state.bundle)
        .slice(0, 4)
        .map(([name]) => name),
    );
  }
  if (current.unique)
    return filter(
      aggregateRows(input, current.unique, [{ name: hidden("rows"), expression: countRows }]),
      binary(column(hidden("rows")), ">", integer(1)),
    );
  if (current.range)
    return keepColumns(filter(input, outsideOf(column(current.range.column), current.range)), [
      current.range.column,
    ]);
  if (current.one_of) {
    const values = current.one_of.values.map((value) => asText(constantExpression(value)));
    return keepColumns(
      filter(input, { kind: "in", operand: asText(column(current.one_of.column)), values, negated: true }),
      [current.one_of.column],
    );
  }
  if (current.found_in) {
    const { column: name, strand, there = name } = current.found_in;
    const others = withColumns(aggregateRows(context.strand(strand), [there], []), [
      { name: hidden("found"), expression: integer(1) },
    ]);
    const joined: Relation = {
      kind: "join",
      how: "left",
      left: filter(input, isNotNull(column(name))),
      right: others,
      on: [{ left: name, right: there }],
      take: [{ from: hidden("found"), name: hidden("found") }],
    };
    return keepColumns(filter(joined, isNull(column(hidden("found")))), [name]);
  }
  if (current.rows) {
    const { least = 0, most } = current.rows;
    const wrong = [
      binary(column(hidden("rows")), "<", double(least)),
      ...(most === undefined ? [] : [binary(column(hidden("rows")), ">", double(most))]),
    ];
    return counted(
      { name: hidden("rows"), expression: countRows },
      wrong.reduce((left, right) => binary(left, "or", right)),
    );
  }
  if (current.fresh) {
    const newest = cast(column("newest"), "timestamptz");
    const old = binary(
      newest,
      "<",
      binary({ kind: "runTime" }, "-", cast(text(current.fresh.within), "interval")),
    );
    return counted(
      { name: "newest", expression: call("max", column(current.fresh.column)) },
      binary(isNull(column("newest")), "or", old),
    );
  }
  return undefined;
}

export const checkStep: StepKind = defineStep({
  kind: "check",
  title: "Check",
  help: {
    about:
      "Checks the rows at this point whenever the pipeline trains or scores; one kind of check per step.",
    words: ["assert", "validate", "expectation", "constraint", "test", "quality"],
    missing: "Missing values violate only not_missing; unique treats missing as a value.",
    example: "range: {column: weight_g, least: 1, most: 60000}\notherwise: warn",
  },
  settings,
  strands: (current) => (current.found_in ? [current.found_in.strand] : []),
  sentence: (current) => `check: ${sentence(current)}`,
  check: (current, context) => {
    const given = KINDS.filter((key) => current[key] !== undefined);
    if (given.length !== 1)
      context.report(
        problem(
          "one_check",
          given.length === 0 ? "Nothing is checked." : `${listNames(given)} are set in one step.`,
          `Give exactly one of ${KINDS.join(", ")}; use one step for each.`,
        ),
        [],
      );
    if (current.range && current.range.least === undefined && current.range.most === undefined)
      context.report(problem("no_bound", "Neither least nor most is given.", "Give at least one."), [
        "range",
      ]);
    const names = columnsChecked(current);
    for (const [name, path] of names) {
      if (context.column(name, path)?.bundle)
        context.report(
          problem("bundle_read", `"${name}" stands for several columns.`, "Check it before it is encoded."),
          path,
        );
    }
    checkTypes(current, context);
    return {
      output: context.input,
      reads: names.map(([name]) => name).filter((name) => context.input.has(name)),
      writes: [],
      drops: [],
    };
  },
  apply: (_current, input) => input,
  requirements: (current, context, input) => {
    const rows = breaking(current, input, context);
    return rows
      ? [
          {
            code: "check_failed",
            rows,
            message: `The check "${current.name ?? sentence(current)}" failed`,
            hint: "Inspect those rows; correct the source or the check.",
            otherwise: current.otherwise,
          },
        ]
      : [];
  },
});
