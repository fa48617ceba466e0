import { z } from "zod";
import {
  asDouble,
  call,
  cast,
  column,
  double,
  integer,
  isNull,
  text,
  when,
  type Expression,
  type LookupType,
} from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns, type NamedExpression, type Relation } from "../relation/relation";
import { isNumber, type ValueType } from "../value-type";
import { GROUP, MOST_CATEGORIES, withinLimit } from "./category-answers";
import { entityText } from "./entity";
import { carried, forwardValue, isForward, forwardColumns } from "./fill-forward";
import { checkNewName, columnNames, constantExpression, existing, scalar, typedNull } from "./shared";
import {
  changed,
  defineStep,
  listNames,
  stepCommon,
  type CheckContext,
  type ColumnState,
  type LearnAnswer,
  type LearnQuestion,
  type StepKind,
} from "./step";

const settings = z.strictObject({
  do: z.literal("fill"),
  ...stepCommon,
  columns: columnNames.describe("The columns whose missing values are filled."),
  with: z
    .union([
      z.enum(["median", "mean", "most_frequent"]),
      z.strictObject({ constant: scalar }),
      z.strictObject({
        forward: z.strictObject({ order: z.string().min(1), by: z.array(z.string().min(1)).optional() }),
      }),
    ])
    .describe(
      "Median, mean and most frequent value are learned from training rows only. {constant: ..} is a fixed value. {forward: {order: taken_at, by: [site_id]}}: the previous value in time, within each group.",
    ),
  by: columnNames
    .optional()
    .describe("Learn one value per group of these columns; unseen groups get the value of all rows."),
  indicator: z
    .boolean()
    .default(false)
    .describe("Also add a column NAME_missing that is 1 where a value was missing."),
});
type Settings = z.infer<typeof settings>;

const value = z.union([z.number(), z.string(), z.null()]);
const learnedSchema = z.object({
  values: z.record(z.string(), value),
  groups: z.record(z.string(), z.record(z.string(), value)).optional(),
});
type Learned = z.infer<typeof learnedSchema>;

const indicatorName = (name: string): string => `${name}_missing`;
const isNumeric = (current: Settings): boolean => current.with === "median" || current.with === "mean";
const isLearned = (current: Settings): boolean => typeof current.with === "string";

/** What missing values become, in words. */
function fillWords({ with: filling, by }: Settings): string {
  if (typeof filling !== "string")
    return "constant" in filling
      ? JSON.stringify(filling.constant)
      : `the previous value by ${filling.forward.order}`;
  return `the ${filling.replace("_", " ")}${by ? ` of its ${listNames(by)}` : ""}`;
}

function resultType(current: Settings, type: ValueType): ValueType {
  if (isNumeric(current)) return "double precision";
  if (
    typeof current.with === "object" &&
    "constant" in current.with &&
    typeof current.with.constant === "number" &&
    isNumber(type)
  )
    return Number.isInteger(current.with.constant) ? type : "double precision";
  return type;
}

const asWritten = (found: number | string, type: ValueType): Expression => {
  if (typeof found === "number") return double(found);
  if (type !== "text" && type !== "other") return cast(text(found), type);
  return text(found);
};

/** The learned value of a column, by group where learned so, or undefined where there was nothing to learn from. */
function fillValue(
  current: Settings,
  learned: Learned | undefined,
  name: string,
  type: ValueType,
): Expression | undefined {
  if (typeof current.with === "object")
    return "constant" in current.with ? constantExpression(current.with.constant) : undefined;
  const overall = learned?.values[name];
  const everywhere = overall === null || overall === undefined ? undefined : asWritten(overall, type);
  const groups = Object.entries(learned?.groups?.[name] ?? {}).flatMap(
    ([key, value]): (readonly [string, number | string])[] => (value === null ? [] : [[key, value]]),
  );
  if (!current.by || groups.length === 0) return everywhere;
  const kind: LookupType = isNumeric(current) ? "double precision" : "text";
  const constant = (value: number | string): Expression =>
    typeof value === "number" ? double(value) : text(value);
  const otherwise = overall === null || overall === undefined ? typedNull(kind) : constant(overall);
  const found: Expression = {
    kind: "lookup",
    operand: entityText(current.by),
    entries: groups,
    missing: otherwise,
    otherwise,
    type: kind,
  };
  return kind === "text" && type !== "text" ? cast(found, type) : found;
}

/** Whether a constant can stand in a column of a type. */
function isOfType(constant: string | number | boolean, type: ValueType): boolean {
  if (typeof constant === "number") return isNumber(type);
  return typeof constant === "boolean" ? type === "boolean" : !isNumber(type) && type !== "boolean";
}

function checkConstant(
  current: Settings,
  found: ColumnState,
  context: CheckContext,
  path: readonly (string | number)[],
): void {
  if (typeof current.with !== "object" || !("constant" in current.with)) return;
  const { constant } = current.with;
  if (!isOfType(constant, found.type))
    context.report(
      problem(
        "type_clash",
        `"${found.name}" is ${found.type}; ${JSON.stringify(constant)} does not fit.`,
        `Give a constant of type ${found.type}.`,
      ),
      path,
    );
}

function measure(current: Settings, name: string): Expression {
  if (current.with === "mean") return asDouble(call("avg", asDouble(column(name))));
  if (current.with === "median")
    return { ...call("percentile_cont", double(0.5)), withinGroup: asDouble(column(name)) };
  return cast({ ...call("mode"), withinGroup: column(name) }, "text");
}

function decode(current: Settings, [[all = {}] = [], groups = []]: readonly LearnAnswer[]): Learned {
  const read = (row: Readonly<Record<string, unknown>>, place: number): number | string | null =>
    (row[`v${place}`] ?? null) as number | string | null;
  const values = Object.fromEntries(current.columns.map((name, place) => [name, read(all, place)]));
  if (!current.by) return { values };
  const known = withinLimit(groups, current.by.join(", "), current.name ?? "fill").filter(
    (row) => row[GROUP] !== null,
  );
  return {
    values,
    groups: Object.fromEntries(
      current.columns.map((name, place) => [
        name,
        Object.fromEntries(known.map((row) => [String(row[GROUP]), read(row, place)])),
      ]),
    ),
  };
}

export const fillStep: StepKind = defineStep({
  kind: "fill",
  title: "Fill missing values",
  help: {
    about:
      "Fills missing values with a constant, a learned mean, median or most frequent value (of all rows or per group), or the previous value in time.",
    words: [
      "impute",
      "imputation",
      "null",
      "missing",
      "gap",
      "coalesce",
      "replace",
      "last value",
      "median",
      "mean",
    ],
    missing: "Where training rows had no values, missing stays missing.",
    example: "columns: [weight_g]\nwith: median\nby: [size_class]\nindicator: true",
  },
  settings,
  regroups: (current) => typeof current.with === "object" && "forward" in current.with,
  sentence: (current) => `fill ${listNames(current.columns)} with ${fillWords(current)}`,
  check: (current, context) => {
    const written: ColumnState[] = [];
    const by = existing(context, current.by ?? [], ["by"]);
    if (current.by && !isLearned(current))
      context.report(
        problem(
          "bad_setting",
          "Only learned values can be set per group.",
          'Use with: median, mean or most_frequent; or remove "by".',
        ),
        ["by"],
      );
    const forward =
      typeof current.with === "object" && "forward" in current.with
        ? forwardColumns(current.with.forward, context)
        : [];
    for (const [index, name] of current.columns.entries()) {
      const path = ["columns", index];
      const found = context.column(name, path);
      if (!found) continue;
      if (found.bundle)
        context.report(
          problem(
            "bundle_read",
            `"${name}" stands for several one-hot columns; they have no missing values.`,
            "Fill it before the encode step.",
          ),
          path,
        );
      if (isNumeric(current) && !isNumber(found.type))
        context.report(
          problem(
            "type_clash",
            `"${name}" is ${found.type}; a ${String(current.with)} exists for numbers only.`,
            "Use with: most_frequent, or a constant.",
          ),
          path,
        );
      checkConstant(current, found, context, path);
      written.push(
        context.written(
          name,
          { type: resultType(current, found.type), nullable: forward.length > 0 && found.nullable },
          [found, ...by, ...forward],
        ),
      );
      if (!current.indicator) continue;
      checkNewName(context, indicatorName(name), path);
      written.push(context.written(indicatorName(name), { type: "integer", nullable: false }, [found]));
    }
    return {
      output: changed(context.input, written),
      reads: [
        ...new Set([...current.columns, ...(current.by ?? []), ...forward.map((column) => column.name)]),
      ],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    when: isLearned,
    schema: learnedSchema,
    questions: (current): readonly LearnQuestion[] => {
      const measures = current.columns.map((name, place): NamedExpression => ({
        name: `v${place}`,
        expression: measure(current, name),
      }));
      if (!current.by) return [{ measures }];
      return [
        { measures },
        {
          by: [{ name: GROUP, expression: entityText(current.by) }],
          measures,
          limit: { order: [{ expression: column(GROUP) }], rows: MOST_CATEGORIES + 1 },
        },
      ];
    },
    decode,
  },
  apply: (current, input, learned, context): Relation => {
    const present = outputColumns(input);
    const names = current.columns.filter((name) => present.includes(name));
    const forward =
      typeof current.with === "object" && "forward" in current.with ? current.with.forward : undefined;
    const rows = forward ? carried(input, names, forward, context.input) : input;
    const changes = names.flatMap((name, place): NamedExpression[] => {
      const type = context.input.get(name)?.type ?? "text";
      const own = isNumeric(current) ? asDouble(column(name)) : column(name);
      const found = forward ? column(forwardValue(place)) : fillValue(current, learned, name, type);
      const filled = { name, expression: found ? call("coalesce", own, found) : own };
      const flag = {
        name: indicatorName(name),
        expression: when(isNull(column(name)), integer(1), integer(0)),
      };
      return current.indicator ? [filled, flag] : [filled];
    });
    const done = withColumns(rows, changes);
    if (!forward) return done;
    return {
      kind: "project",
      input: done,
      items: outputColumns(done)
        .filter((name) => !isForward(name))
        .map((name) => ({ name, expression: column(name) })),
    };
  },
});
