import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  column,
  countRows,
  double,
  when,
  type Expression,
  type WindowFrame,
} from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns, type NamedExpression } from "../relation/relation";
import { GROUP, MOST_CATEGORIES, withinLimit } from "./category-answers";
import { checkNewName, columnNames, existing, numberOrNull, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";
import { entityText } from "./entity";
import { checkPast, pastFrame, pastSettings } from "./past";

const settings = z.strictObject({
  do: z.literal("baseline"),
  ...stepCommon,
  columns: columnNames.describe("Number columns whose scale differs by entity. Missing values stay missing."),
  entity: columnNames.describe("Columns that identify the entity, such as a site."),
  centre: z
    .enum(["mean", "median"])
    .default("mean")
    .describe("Subtracted value: the entity's mean or median."),
  spread: z
    .enum(["deviation", "quartiles", "none"])
    .default("deviation")
    .describe(
      "Divisor: the entity's standard deviation, interquartile range, or none. Without spread the result is 0.",
    ),
  past: pastSettings
    .optional()
    .describe(
      "Use each entity's rolling history instead of learned values: {order: taken_at, last: 30 days}, or {order: taken_at, moments: 10}. Mean and standard deviation only.",
    ),
  least_rows: z.int().min(1).default(5).describe("Entities with fewer values than this count as unseen."),
  unseen: z
    .enum(["overall", "missing"])
    .default("overall")
    .describe("For unseen entities: the centre and spread of all training rows, or missing."),
  keep: z
    .boolean()
    .default(false)
    .describe("true: keeps the number and adds the result as column NAME_vs_own."),
});
type Settings = z.infer<typeof settings>;

const figures = z.object({ centre: z.number().nullable(), spread: z.number().nullable() });
const learnedSchema = z.object({
  columns: z.record(z.string(), z.object({ overall: figures, entities: z.record(z.string(), figures) })),
});

const target = (current: Settings, name: string): string => (current.keep ? `${name}_vs_own` : name);

function measures(current: Settings): readonly NamedExpression[] {
  return current.columns.flatMap((name, place): NamedExpression[] => {
    const value = asDouble(column(name));
    const quantile = (share: number): Expression => ({
      ...call("percentile_cont", double(share)),
      withinGroup: value,
    });
    const centre = current.centre === "mean" ? call("avg", value) : quantile(0.5);
    const spread = {
      deviation: call("stddev_samp", value),
      quartiles: binary(quantile(0.75), "-", quantile(0.25)),
      none: call("max", double(1)),
    }[current.spread];
    return [
      { name: `n${place}`, expression: call("count", value) },
      { name: `c${place}`, expression: centre },
      { name: `s${place}`, expression: spread },
    ];
  });
}

/** Distance from the centre in units of the spread; 0 where there is no spread. */
function centred(value: Expression, centre: Expression, spread: Expression): Expression {
  const distance = binary(value, "-", centre);
  return call(
    "coalesce",
    binary(distance, "/", call("nullif", spread, double(0))),
    binary(distance, "*", double(0)),
  );
}

function againstPast(current: Settings, name: string, frame: WindowFrame, order: string): Expression {
  const value = asDouble(column(name));
  const over = (aggregate: Expression): Expression => ({
    kind: "window",
    call: aggregate,
    by: current.entity.map((text) => column(text)),
    order: [{ expression: column(order) }],
    frame,
  });
  const enough = binary(over(call("count", value)), ">=", double(current.least_rows));
  const spread = current.spread === "none" ? double(1) : over(call("stddev_samp", value));
  return when(enough, centred(value, over(call("avg", value)), spread), typedNull("double precision"));
}

export const baselineStep: StepKind = defineStep({
  kind: "baseline",
  title: "Normalise per entity",
  help: {
    about:
      "Normalises numbers within each entity: subtracts the entity's learned centre and divides by its learned spread, or uses the entity's rolling history.",
    words: ["deviation", "normalise", "normalize", "relative", "per entity", "per group", "own usual"],
    missing:
      "Missing stays missing. Unseen or rare entities get the centre and spread of all rows, or missing.",
    example: "columns: [force_n]\nentity: [site_id]\nkeep: true",
  },
  settings,
  regroups: (current) => current.past !== undefined,
  sentence: (current) => `${listNames(current.columns)} normalised per ${listNames(current.entity)}`,
  check: (current, context) => {
    const entity = existing(context, current.entity, ["entity"]);
    const order = current.past ? checkPast(context, current.past, ["past"]) : [];
    if (current.past && (current.centre === "median" || current.spread === "quartiles"))
      context.report(
        problem(
          "bad_setting",
          "A rolling history supports only mean and standard deviation.",
          "Set centre: mean and spread: deviation or none.",
        ),
        ["past"],
      );
    if (entity.some((column) => column.bundle))
      context.report(
        problem("bundle_read", "An entity column was already encoded.", "Put this step before that one."),
        ["entity"],
      );
    const written = ofFamily(context, current.columns, ["columns"], "number", "compared").map((found) => {
      if (current.keep) checkNewName(context, target(current, found.name), ["columns"]);
      return context.written(
        target(current, found.name),
        {
          type: "double precision",
          nullable: found.nullable || current.past !== undefined || current.unseen === "missing",
        },
        [found, ...entity, ...order],
      );
    });
    return {
      output: changed(context.input, written),
      reads: [...current.columns, ...current.entity, ...order.map((column) => column.name)],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    when: (current) => current.past === undefined,
    schema: learnedSchema,
    questions: (current) => [
      { measures: measures(current) },
      {
        by: [{ name: GROUP, expression: entityText(current.entity) }],
        measures: [{ name: "rows", expression: countRows }, ...measures(current)],
        limit: { order: [{ expression: column(GROUP) }], rows: MOST_CATEGORIES + 1 },
      },
    ],
    decode: (current, [[all = {}] = [], entities = []]) => {
      const found = withinLimit(entities, current.entity.join(", "), current.name ?? "baseline");
      const read = (row: Readonly<Record<string, unknown>>, place: number) => ({
        centre: numberOrNull(row[`c${place}`]),
        spread: numberOrNull(row[`s${place}`]),
      });
      return {
        columns: Object.fromEntries(
          current.columns.map((name, place) => [
            name,
            {
              overall: read(all, place),
              entities: Object.fromEntries(
                found
                  .filter((row) => row[GROUP] !== null && Number(row[`n${place}`]) >= current.least_rows)
                  .map((row) => [String(row[GROUP]), read(row, place)]),
              ),
            },
          ]),
        ),
      };
    },
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          if (current.past)
            return {
              name: target(current, name),
              expression: againstPast(current, name, pastFrame(current.past), current.past.order),
            };
          const found = learned?.columns[name];
          const figure = (which: "centre" | "spread"): Expression => {
            const overall = found?.overall[which];
            const otherwise =
              current.unseen === "missing" || overall === null || overall === undefined
                ? typedNull("double precision")
                : double(overall);
            const entries = Object.entries(found?.entities ?? {}).flatMap(
              ([key, value]): (readonly [string, number])[] =>
                value[which] === null ? [] : [[key, value[which]]],
            );
            return {
              kind: "lookup",
              operand: entityText(current.entity),
              entries,
              missing: otherwise,
              otherwise,
              type: "double precision",
            };
          };
          return {
            name: target(current, name),
            expression: centred(asDouble(column(name)), figure("centre"), figure("spread")),
          };
        }),
    );
  },
});
