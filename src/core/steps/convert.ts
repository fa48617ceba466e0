import { z } from "zod";
import {
  allOf,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  integer,
  isNotNull,
  isNull,
  text,
  when,
  type Expression,
} from "../expression/ast";
import { problem } from "../problem";
import {
  aggregateRows,
  filter,
  outputColumns,
  project,
  withColumns,
  type Relation,
} from "../relation/relation";
import { isMoment, isNumber, type ValueType } from "../value-type";
import { asText, checkNewName, typedNull } from "./shared";
import {
  changed,
  defineStep,
  listNames,
  stepCommon,
  type ColumnState,
  type Requirement,
  type StepKind,
} from "./step";

const TARGETS = [
  "text",
  "integer",
  "bigint",
  "numeric",
  "double precision",
  "boolean",
  "date",
  "timestamp",
  "timestamptz",
] as const;
const settings = z.strictObject({
  do: z.literal("convert"),
  ...stepCommon,
  columns: z.record(z.string().min(1), z.enum(TARGETS)).describe("Column: target type."),
  failing: z
    .enum(["stop", "missing"])
    .default("stop")
    .describe(
      "What happens to values that cannot be converted. stop: the run stops and lists them. missing: they are set to missing.",
    ),
  flag: z
    .boolean()
    .default(false)
    .describe("With failing: missing, also add a column NAME_failed that is true where conversion failed."),
});

const match = (value: Expression, pattern: string): Expression =>
  isNotNull(call("regexp_group", value, text(pattern), integer(1)));
const NUMBER = "^\\s*([+-]?(\\d+\\.?\\d*|\\.\\d+)([eE][+-]?\\d{1,3})?)\\s*$";
const WHOLE = "^\\s*([+-]?\\d{1,18})\\s*$";
const DATE = "^\\s*(\\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\\d|3[01]))";
const TIME =
  "([ T]([01]\\d|2[0-3]):[0-5]\\d(:[0-5]\\d(\\.\\d{1,6})?)?\\s*(Z|UTC|[+-][01]\\d(:?[0-5]\\d)?)?)?\\s*$";
const YES = ["t", "true", "yes", "y", "on", "1"];
const NO = ["f", "false", "no", "n", "off", "0"];

/** Whether the day of an ISO date exists: 30 February fits the pattern and is still no date. */
function dayExists(value: Expression): Expression {
  const part = (start: number, length: number): Expression =>
    cast(call("substr", call("btrim", value), integer(start), integer(length)), "integer");
  const [year, month, day] = [part(1, 4), part(6, 2), part(9, 2)];
  const leap = binary(
    binary(binary(year, "%", integer(4)), "=", integer(0)),
    "and",
    binary(
      binary(binary(year, "%", integer(100)), "<>", integer(0)),
      "or",
      binary(binary(year, "%", integer(400)), "=", integer(0)),
    ),
  );
  const february = when(leap, integer(29), integer(28));
  const last: Expression = {
    kind: "case",
    branches: [
      { when: binary(month, "=", integer(2)), then: february },
      {
        when: { kind: "in", operand: month, values: [4, 6, 9, 11].map(integer), negated: false },
        then: integer(30),
      },
    ],
    otherwise: integer(31),
  };
  return binary(binary(year, ">", integer(0)), "and", binary(day, "<=", last));
}

const WHOLE_LIMITS: Readonly<Record<string, readonly [string, string]>> = {
  integer: ["-2147483648", "2147483647"],
  bigint: ["-9223372036854775808", "9223372036854775807"],
};

function inLimits(value: Expression, to: ValueType): Expression | undefined {
  const limits = WHOLE_LIMITS[to];
  return (
    limits && {
      kind: "between",
      operand: value,
      low: { kind: "literal", type: "number", text: limits[0] },
      high: { kind: "literal", type: "number", text: limits[1] },
      negated: false,
    }
  );
}

/** The converted value, NULL where it does not convert, or undefined when nothing of that type ever converts. */
export function converted(name: string, from: ValueType, to: ValueType): Expression | undefined {
  const value = column(name);
  if (from === to) return value;
  if (to === "text") return from === "other" || from === "sparse" ? undefined : cast(value, "text");
  if (from === "boolean") return isNumber(to) ? cast(cast(value, "integer"), to) : undefined;
  if (isNumber(from)) {
    if (to === "boolean")
      return {
        kind: "case",
        branches: [
          { when: binary(value, "=", integer(1)), then: { kind: "literal", type: "boolean", value: true } },
          { when: binary(value, "=", integer(0)), then: { kind: "literal", type: "boolean", value: false } },
        ],
      };
    if (!isNumber(to)) return undefined;
    const limits = inLimits(value, to);
    // A comparison with NaN or infinity is false within limits, so they fail too.
    return limits ? when(limits, cast(value, to), typedNull(to)) : cast(value, to);
  }
  if (isMoment(from)) return isMoment(to) ? cast(value, to) : undefined;
  if (from !== "text") return undefined;
  if (to === "boolean") {
    const word = call("lower", call("btrim", value));
    const among = (words: readonly string[]): Expression => ({
      kind: "in",
      operand: word,
      values: words.map(text),
      negated: false,
    });
    return {
      kind: "case",
      branches: [
        { when: among(YES), then: { kind: "literal", type: "boolean", value: true } },
        { when: among(NO), then: { kind: "literal", type: "boolean", value: false } },
      ],
    };
  }
  if (isMoment(to))
    return when(
      match(value, `${DATE}${TIME}`),
      when(dayExists(value), cast(value, to), typedNull(to)),
      typedNull(to),
    );
  if (to === "integer" || to === "bigint")
    return when(
      match(value, WHOLE),
      when(inLimits(cast(value, "numeric"), to)!, cast(value, to), typedNull(to)),
      typedNull(to),
    );
  return when(match(value, NUMBER), cast(value, to), typedNull(to));
}

/** One row that says how many values become missing and names one, when more than half of them do; else no row. */
function mostlyLost(input: Relation, name: string, expression: Expression): Relation {
  const [all, lost, example] = ["all", "lost", "example"];
  const failing = isNull(expression);
  const counted = aggregateRows(
    filter(input, isNotNull(column(name))),
    [],
    [
      { name: all, expression: countRows },
      { name: lost, expression: countWhere(failing) },
      {
        name: example,
        expression: { kind: "call", name: "min", args: [asText(column(name))], filter: failing },
      },
    ],
  );
  const most = filter(counted, binary(binary(column(lost), "*", integer(2)), ">", column(all)));
  const parts = [
    asText(column(lost)),
    text(" of "),
    asText(column(all)),
    text(", such as “"),
    column(example),
    text("”"),
  ];
  return project(most, [
    { name: "found", expression: parts.reduce((left, right) => binary(left, "||", right)) },
  ]);
}

export const convertStep: StepKind = defineStep({
  kind: "convert",
  title: "Convert types",
  help: {
    about:
      "Changes the type of columns. Text is parsed as a number, a date (ISO, such as 2026-05-01) or yes/no.",
    words: ["cast", "type", "parse", "to number", "to date", "to text", "change types"],
    missing: "Missing stays missing. Values that cannot be converted stop the run, or are set to missing.",
    example: "columns: {weight_g: double precision, opened_on: date}\nfailing: missing",
  },
  settings,
  sentence: (current) =>
    `make ${listNames(Object.entries(current.columns).map(([name, type]) => `${name} ${type}`))}`,
  check: (current, context) => {
    const written: ColumnState[] = [];
    for (const [name, to] of Object.entries(current.columns)) {
      const path = ["columns", name];
      const found = context.column(name, path);
      if (!found) continue;
      if (found.bundle || !converted(name, found.type, to))
        context.report(
          problem(
            "type_clash",
            `"${name}" is ${found.bundle ? "several columns" : found.type}; it cannot be converted to ${to}.`,
            "Choose another type, or use a derive step.",
          ),
          path,
        );
      written.push(
        context.written(
          name,
          { type: to, nullable: found.nullable || (current.failing === "missing" && to !== "text") },
          [found],
        ),
      );
      if (!current.flag || current.failing !== "missing") continue;
      checkNewName(context, `${name}_failed`, path);
      written.push(context.written(`${name}_failed`, { type: "boolean", nullable: false }, [found]));
    }
    return {
      output: changed(context.input, written),
      reads: Object.keys(current.columns),
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (current, input, _learned, context) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      Object.entries(current.columns)
        .filter(([name]) => present.includes(name))
        .flatMap(([name, to]) => {
          const expression = converted(name, context.input.get(name)?.type ?? "text", to) ?? column(name);
          const failed = {
            name: `${name}_failed`,
            expression: binary(isNotNull(column(name)), "and", isNull(expression)),
          };
          return current.flag && current.failing === "missing"
            ? [{ name, expression }, failed]
            : [{ name, expression }];
        }),
    );
  },
  requirements: (current, context, input) => {
    if (current.failing === "missing")
      return Object.entries(current.columns).flatMap(([name, to]): Requirement[] => {
        const expression = converted(name, context.input.get(name)?.type ?? "text", to);
        return expression
          ? [
              {
                code: "most_become_missing",
                rows: mostlyLost(input, name, expression),
                message: `Most values of "${name}" do not convert to ${to} and become missing`,
                hint: "Check the type, or correct them in an earlier step.",
                otherwise: "warn",
              },
            ]
          : [];
      });
    return Object.entries(current.columns).flatMap(([name, to]) => {
      const expression = converted(name, context.input.get(name)?.type ?? "text", to);
      if (!expression) return [];
      return [
        {
          code: "does_not_convert",
          rows: project(filter(input, allOf([isNotNull(column(name)), isNull(expression)])), [
            { name: "value", expression: asText(column(name)) },
          ]),
          message: `Some values of "${name}" do not convert to ${to}`,
          hint: "Correct them in an earlier step, or set failing: missing.",
        },
      ];
    });
  },
});
