import { z } from "zod";
import {
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  text,
  type Expression,
} from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { columnsRead } from "../learn/model-kinds";
import type { Model } from "../learn/model";
import { prune } from "../relation/prune";
import {
  aggregateRows,
  filter,
  outputColumns,
  project,
  table,
  type NamedExpression,
  type Relation,
  type TableReference,
} from "../relation/relation";
import { HIDDEN_COLUMNS, PART_COLUMN } from "../steps/step";
import { isNumber } from "../value-type";
import { PlanBuilder, readsOf, type LearnedValues } from "./build";
import type { Breach } from "./contract";
import { baseRelation, type FrameShape } from "./frame";
import type { CheckedPlan } from "./plan";
import { TRAINING_PART } from "./split";

/** What the training rows looked like before anything was filled: the measure for rows to be scored. */
export const profileSchema = z.object({
  rows: z.number(),
  columns: z.record(
    z.string(),
    z.object({
      missing: z.number(),
      unseen: z.number(),
      low: z.number().optional(),
      high: z.number().optional(),
      outside: z.number().optional(),
    }),
  ),
});
export type RowProfile = z.infer<typeof profileSchema>;

/** The parts of a version that say what it knows. */
export interface Trained {
  readonly shape: FrameShape;
  readonly model: Model;
}

/** Categories that training saw, by column: those of encode steps and those the learner coded. */
function knownLevels(
  plan: CheckedPlan,
  learned: LearnedValues,
  { shape, model }: Trained,
): ReadonlyMap<string, readonly string[]> {
  const known = new Map<string, readonly string[]>();
  plan.main.steps.forEach(({ step }, index) => {
    const levels =
      step.kind === "encode"
        ? (learned[String(index)] as { levels?: Record<string, string[]> } | undefined)?.levels
        : undefined;
    for (const [name, values] of Object.entries(levels ?? {})) known.set(name, values);
  });
  const read = columnsRead(model).categories;
  for (const category of shape.categories)
    if (read.has(category.column))
      known.set(
        category.column,
        category.levels.filter((level) => level !== null),
      );
  return known;
}

/** Columns before the first learned step from which the features are made. Others may be empty: the answer usually is. */
export function featureInputs(plan: CheckedPlan): readonly string[] {
  const start = table(
    { schema: "", table: "" },
    outputColumns(baseRelation(plan)).filter((name) => !HIDDEN_COLUMNS.includes(name)),
  );
  const rest = new PlanBuilder(plan).main({ learned: {}, fromStep: plan.learnsFrom, start });
  const reads = [...readsOf(prune(rest, new Set(plan.features.map((feature) => feature.name)))).values()];
  const used = reads.find((name) => name.schema === "" && name.table === "")?.columns ?? new Set<string>();
  return outputColumns(start).filter((name) => used.has(name));
}

/** Columns before the first learned step that are numbers. */
const numbersOf = (plan: CheckedPlan, names: readonly string[]): readonly string[] => {
  const known = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  return names.filter((name) => isNumber(known.get(name)?.type ?? "other"));
};

const asDouble = (name: string): Expression => cast(column(name), "double precision");
const missingIn = (name: string): Expression => ({
  kind: "is",
  operand: column(name),
  test: "null",
  negated: false,
});
const unseenIn = (name: string, levels: readonly string[]): Expression => ({
  kind: "in",
  operand: cast(column(name), "text"),
  values: levels.map(text),
  negated: true,
});
const count = (test: Expression): Expression => ({
  kind: "call",
  name: "count",
  args: [],
  star: true,
  filter: test,
});
const outsideIn = (name: string, low: number, high: number): Expression =>
  binary(binary(asDouble(name), "<", double(low)), "or", binary(asDouble(name), ">", double(high)));

/** What is counted of a column; in the answer each is followed by the column's place among the inputs of the features. */
const MEASURES = ["missing", "unseen", "low", "high", "outside"] as const;
type Measure = (typeof MEASURES)[number];
const measureName = (measure: Measure, place: number): string => `${measure}_${place}`;

/**
 * Counts of missing values and unseen categories, as one row: rows, and by the place of a column missing_0, unseen_0; of training
 * rows also the smallest and the largest number, low_0 and high_0; of rows to score, those outside of these, outside_0. Looks at
 * the rows as they are before the first learned step, so that a filled gap still counts as a gap.
 * @param from the training base table, or the condition for the rows that are looked at now
 * @param before what training rows looked like, when other rows are held against them
 */
export function profileRelation(
  plan: CheckedPlan,
  learned: LearnedValues,
  trained: Trained,
  from: { readonly base: TableReference } | { readonly condition: Expression },
  before?: RowProfile,
): Relation {
  const names = featureInputs(plan);
  const training = binary(column(PART_COLUMN), "=", integer(TRAINING_PART));
  const rows =
    "base" in from
      ? filter(table(from.base, [...names, PART_COLUMN]), training)
      : filter(new PlanBuilder(plan).main({ learned, toStep: plan.learnsFrom }), from.condition);
  const levels = knownLevels(plan, learned, trained);
  const numbers = new Set(numbersOf(plan, names));
  const measures = names.flatMap((name, place): NamedExpression[] => {
    const known = levels.get(name);
    const bounds = before?.columns[name];
    const asked: Partial<Record<Measure, Expression>> = {
      missing: count(missingIn(name)),
      ...(known && known.length > 0 ? { unseen: count(unseenIn(name, known)) } : {}),
      ...(numbers.has(name) && before === undefined
        ? { low: call("min", asDouble(name)), high: call("max", asDouble(name)) }
        : {}),
      ...(numbers.has(name) && bounds?.low !== undefined && bounds.high !== undefined
        ? { outside: count(outsideIn(name, bounds.low, bounds.high)) }
        : {}),
    };
    return MEASURES.flatMap((measure) => {
      const expression = asked[measure];
      return expression ? [{ name: measureName(measure, place), expression }] : [];
    });
  });
  const asked: NamedExpression[] = [{ name: "rows", expression: countRows }, ...measures];
  const needed = new Set([
    ...asked.flatMap((named) => columnsOf(named.expression)),
    ...("base" in from ? [PART_COLUMN] : columnsOf(from.condition)),
  ]);
  return aggregateRows(prune(rows, needed), [], asked);
}

/** Some columns of the rows to score, as they are before the first learned step. */
export function inputsToScore(plan: CheckedPlan, learned: LearnedValues, names: readonly string[]): Relation {
  const rows = filter(new PlanBuilder(plan).main({ learned, toStep: plan.learnsFrom }), plan.score);
  return project(
    prune(rows, new Set([...names, ...columnsOf(plan.score)])),
    names.map((name): NamedExpression => ({ name, expression: column(name) })),
  );
}

/**
 * Reads the answer to {@link profileRelation}.
 * @param names the columns by their places: {@link featureInputs} of the plan
 */
export function readProfile(row: Readonly<Record<string, unknown>>, names: readonly string[]): RowProfile {
  const columns = names.flatMap((name, place) => {
    const measured = (measure: Measure): number | undefined => {
      const value = row[measureName(measure, place)];
      return value === null || value === undefined ? undefined : Number(value);
    };
    // A column without any value has no ends; infinite ones bound nothing.
    const end = (measure: Measure): number | undefined => {
      const value = measured(measure);
      return Number.isFinite(value) ? value : undefined;
    };
    const missing = measured("missing");
    if (missing === undefined) return [];
    const [low, high, outside] = [end("low"), end("high"), measured("outside")];
    const found = {
      missing,
      unseen: measured("unseen") ?? 0,
      ...(low === undefined ? {} : { low }),
      ...(high === undefined ? {} : { high }),
      ...(outside === undefined ? {} : { outside }),
    };
    return [[name, found] as const];
  });
  return { rows: Number(row["rows"] ?? 0), columns: Object.fromEntries(columns) };
}

/** The rows in which a column breaks the contract: their key, where it is known that early, and the value. */
export function breachRelation(
  plan: CheckedPlan,
  learned: LearnedValues,
  trained: Trained,
  { column: name, kind }: Breach,
  before: RowProfile,
): Relation | undefined {
  if (name === undefined || kind === "rows") return undefined;
  const { low, high } = before.columns[name] ?? {};
  const levels = knownLevels(plan, learned, trained).get(name) ?? [];
  const conditions = {
    missing: () => missingIn(name),
    unseen: () => unseenIn(name, levels),
    outside: () => (low === undefined || high === undefined ? undefined : outsideIn(name, low, high)),
  };
  const wrong = conditions[kind]();
  if (!wrong) return undefined;
  const start = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const names = [...new Set([...plan.file.roles.key.filter((text) => start.has(text)), name])];
  return filter(inputsToScore(plan, learned, names), wrong);
}
