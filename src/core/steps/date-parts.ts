import { z } from "zod";
import { binary, cast, column, double, integer, text, call, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { isMoment, type ValueType } from "../value-type";
import { isZone } from "../zone";
import { checkNewName, ofFamily } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const PARTS = [
  "year",
  "quarter",
  "month",
  "week",
  "day_of_month",
  "day_of_year",
  "weekday",
  "hour",
  "minute",
  "date",
  "is_weekend",
] as const;
type Part = (typeof PARTS)[number];
const FIELDS: Readonly<Partial<Record<Part, string>>> = {
  year: "year",
  quarter: "quarter",
  month: "month",
  week: "week",
  day_of_month: "day",
  day_of_year: "doy",
  weekday: "isodow",
  hour: "hour",
  minute: "minute",
};

const settings = z.strictObject({
  do: z.literal("date_parts"),
  ...stepCommon,
  column: z
    .string()
    .min(1)
    .describe("A date or time column. It is kept. Parts of a missing time are missing."),
  parts: z
    .array(z.enum(PARTS))
    .min(1)
    .describe("Each becomes a column NAME_PART. weekday counts from 1 for Monday; week is the ISO week."),
  zone: z
    .string()
    .default("UTC")
    .describe("Time zone for times, such as Europe/Lisbon. Plain dates have none."),
});

function part(
  name: string,
  type: ValueType,
  zone: string,
  wanted: Part,
): { readonly expression: Expression; readonly type: ValueType } {
  const local = type === "timestamptz" ? call("timezone", text(zone), column(name)) : column(name);
  if (wanted === "date") return { expression: cast(local, "date"), type: "date" };
  const field = (which: string): Expression =>
    cast({ kind: "extract", field: which, operand: local }, "integer");
  if (wanted === "is_weekend")
    return { expression: binary(field("isodow"), ">=", integer(6)), type: "boolean" };
  return { expression: field(FIELDS[wanted] ?? "year"), type: "integer" };
}

export const datePartsStep: StepKind = defineStep({
  kind: "date_parts",
  title: "Date parts",
  help: {
    about: "Extracts parts such as the weekday from a date or time.",
    words: ["weekday", "month", "hour", "year", "quarter", "calendar", "season", "extract date"],
    missing: "Parts of a missing time are missing.",
    example: "column: delivered_at\nparts: [weekday, hour]\nzone: Europe/Lisbon",
  },
  settings,
  sentence: (current) =>
    `${listNames(current.parts.map((part) => part.replaceAll("_", " ")))} of ${current.column}`,
  check: (current, context) => {
    const found = ofFamily(context, [current.column], ["column"], "moment", "split");
    if (!isZone(current.zone))
      context.report(
        problem(
          "bad_zone",
          `"${current.zone}" is not a time zone.`,
          "Use a name such as UTC or Europe/Lisbon.",
        ),
        ["zone"],
      );
    const written = current.parts.map((onePart, index) => {
      const name = `${current.column}_${onePart}`;
      checkNewName(context, name, ["parts", index]);
      return context.written(
        name,
        { type: part(current.column, "date", "UTC", onePart).type, nullable: found[0]?.nullable ?? true },
        found,
      );
    });
    return {
      output: changed(context.input, written),
      reads: [current.column],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (current, input, _learned, context) =>
    withColumns(
      input,
      current.parts.map((onePart) => ({
        name: `${current.column}_${onePart}`,
        expression: part(
          current.column,
          context.input.get(current.column)?.type ?? "date",
          current.zone,
          onePart,
        ).expression,
      })),
    ),
});

const UNITS = { seconds: 1, minutes: 60, hours: 3600, days: 86_400, weeks: 604_800 } as const;

const elapsedSettings = z.strictObject({
  do: z.literal("elapsed"),
  ...stepCommon,
  from: z.string().min(1).describe("Column with the earlier time."),
  to: z
    .string()
    .min(1)
    .optional()
    .describe("Column with the later time. run_time(), the time of the run, if omitted."),
  unit: z
    .enum(["seconds", "minutes", "hours", "days", "weeks"])
    .default("days")
    .describe("Unit of the difference, with fractions."),
  into: z
    .string()
    .min(1)
    .describe("The new column. Negative if the order is reversed; missing if a time is missing."),
});

/** Seconds since 1970 as double precision, whatever kind of moment. */
const epoch = (value: Expression, type: ValueType | undefined): Expression =>
  cast(
    {
      kind: "extract",
      field: "epoch",
      operand:
        type !== undefined && isMoment(type) && type !== "timestamptz" ? cast(value, "timestamptz") : value,
    },
    "double precision",
  );

export const elapsedStep: StepKind = defineStep({
  kind: "elapsed",
  title: "Time difference",
  help: {
    about: "Computes the difference between two times, or between a time and the run.",
    words: ["duration", "age", "difference", "days", "hours", "between", "time between"],
    missing: "Missing if either time is missing.",
    example: "from: booked_at\nto: delivered_at\nunit: hours\ninto: transit_hours",
  },
  settings: elapsedSettings,
  sentence: (current) => `${current.unit} from ${current.from} to ${current.to ?? "the run"}`,
  check: (current, context) => {
    const from = ofFamily(context, [current.from], ["from"], "moment", "subtracted");
    const to =
      current.to === undefined ? [] : ofFamily(context, [current.to], ["to"], "moment", "subtracted");
    checkNewName(context, current.into, ["into"]);
    const written = context.written(
      current.into,
      { type: "double precision", nullable: [...from, ...to].some((column) => column.nullable) },
      [...from, ...to],
    );
    return {
      output: changed(context.input, [written]),
      reads: [...from, ...to].map((column) => column.name),
      writes: [current.into],
      drops: [],
    };
  },
  apply: (current, input, _learned, context) => {
    const later: Expression =
      current.to === undefined
        ? epoch({ kind: "runTime" }, "timestamptz")
        : epoch(column(current.to), context.input.get(current.to)?.type);
    const seconds = binary(later, "-", epoch(column(current.from), context.input.get(current.from)?.type));
    return withColumns(input, [
      { name: current.into, expression: binary(seconds, "/", double(UNITS[current.unit])) },
    ]);
  },
});
