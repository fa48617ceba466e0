import { formatNumber, formatShare } from "../format/numbers";
import { z } from "zod";
import { binary, cast, column, double, integer, text, type Expression } from "../expression/ast";
import { columnsOf } from "../expression/visit";
import { columnsRead, type Model } from "../learn/model";
import type { Delivery } from "../pipeline/operating-schema";
import { writeTableName } from "../pipeline/table-name";
import { problem, type Problem } from "../problem";
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
import { findTable, type Catalog } from "./catalog";
import { baseRelation, type FrameShape } from "./frame";
import type { CheckedPlan, SourceUse } from "./plan";
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
  for (const each of shape.categories)
    if (read.has(each.column))
      known.set(
        each.column,
        each.levels.filter((level) => level !== null),
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
  const used = reads.find((each) => each.schema === "" && each.table === "")?.columns ?? new Set<string>();
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
const outsideIn = (name: string, low: number, high: number): Expression =>
  binary(binary(asDouble(name), "<", double(low)), "or", binary(asDouble(name), ">", double(high)));

/**
 * Counts of missing values and unseen categories, as one row: rows, m:COLUMN, u:COLUMN; of training rows also the smallest and the
 * largest number, l:COLUMN and h:COLUMN; of rows to score, those outside of these, o:COLUMN. Looks at the rows as they are
 * before the first learned step, so that a filled gap still counts as a gap.
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
  const count = (test: Expression): Expression => ({
    kind: "call",
    name: "count",
    args: [],
    star: true,
    filter: test,
  });
  const measures = names.flatMap((name): NamedExpression[] => {
    const known = levels.get(name);
    const found: NamedExpression[] = [{ name: `m:${name}`, expression: count(missingIn(name)) }];
    if (known && known.length > 0)
      found.push({ name: `u:${name}`, expression: count(unseenIn(name, known)) });
    if (!numbers.has(name)) return found;
    if (before === undefined)
      return [
        ...found,
        ...(["min", "max"] as const).map((end): NamedExpression => ({
          name: `${end === "min" ? "l" : "h"}:${name}`,
          expression: { kind: "call", name: end, args: [asDouble(name)] },
        })),
      ];
    const { low, high } = before.columns[name] ?? {};
    return low === undefined || high === undefined
      ? found
      : [...found, { name: `o:${name}`, expression: count(outsideIn(name, low, high)) }];
  });
  const asked: NamedExpression[] = [
    { name: "rows", expression: { kind: "call", name: "count", args: [], star: true } },
    ...measures,
  ];
  const needed = new Set([
    ...asked.flatMap((each) => columnsOf(each.expression)),
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

/** Reads the answer to {@link profileRelation}. */
export function readProfile(row: Readonly<Record<string, unknown>>): RowProfile {
  const columns: Record<
    string,
    { missing: number; unseen: number; low?: number; high?: number; outside?: number }
  > = {};
  for (const [name, value] of Object.entries(row)) {
    const entry = (columns[name.slice(2)] ??= { missing: 0, unseen: 0 });
    if (name.startsWith("m:")) entry.missing = Number(value);
    else if (name.startsWith("u:")) entry.unseen = Number(value);
    else if (name.startsWith("o:")) entry.outside = Number(value);
    else if (/^[lh]:/.test(name)) {
      // A column without any value has no ends; infinite ones bound nothing.
      if (value !== null && Number.isFinite(Number(value)))
        entry[name.startsWith("l:") ? "low" : "high"] = Number(value);
    } else delete columns[name.slice(2)];
  }
  return { rows: Number(row["rows"] ?? 0), columns };
}

/** Source columns that are gone or have another type than when the version was trained. Each stops the scoring. */
export function brokenSources(trained: readonly SourceUse[], now: Catalog): readonly Problem[] {
  return trained.flatMap((source) => {
    const name = writeTableName(source);
    const current = findTable(now, source);
    if (!current)
      return [
        problem(
          "source_gone",
          `The table ${name} no longer exists, or may not be read.`,
          "Bring it back, or change the pipeline and train again. Yesterday's predictions were left in place.",
        ),
      ];
    return source.columns.flatMap((wanted) => {
      const found = current.columns.find((each) => each.name === wanted.name);
      if (!found)
        return [
          problem(
            "source_gone",
            `The column "${wanted.name}" of ${name} no longer exists.`,
            "Bring it back, or change the pipeline and train again. Yesterday's predictions were left in place.",
          ),
        ];
      if (found.declared !== wanted.declared)
        return [
          problem(
            "source_retyped",
            `The column "${wanted.name}" of ${name} was ${wanted.declared} in training and is ${found.declared} now.`,
            "Change it back, or train again. Yesterday's predictions were left in place.",
          ),
        ];
      return [];
    });
  });
}

/** Something in the rows to score that the contract does not allow. */
export interface Breach {
  readonly problem: Problem;
  /** The column it is about; none when it is about the number of rows. */
  readonly column?: string;
  readonly kind: "missing" | "unseen" | "outside" | "rows";
}

/** Compares the rows to score with the training rows, column by column, within the bounds of the delivery. */
export function brokenProfile(
  trained: RowProfile,
  now: RowProfile,
  contract: Delivery["contract"],
): readonly Breach[] {
  const found: Breach[] = [];
  if (contract.least_rows !== undefined && now.rows < contract.least_rows)
    found.push({
      kind: "rows",
      problem: problem(
        "contract_rows",
        `${formatNumber(now.rows)} rows are to be scored; the contract wants ${formatNumber(contract.least_rows)} at least.`,
        "Has its source been filled? Or lower contract.least_rows.",
      ),
    });
  if (contract.most_rows !== undefined && now.rows > contract.most_rows)
    found.push({
      kind: "rows",
      problem: problem(
        "contract_rows",
        `${formatNumber(now.rows)} rows are to be scored; the contract wants ${formatNumber(contract.most_rows)} at the most.`,
        "Has its source been filled twice? Or raise contract.most_rows.",
      ),
    });
  if (now.rows === 0) return found;
  for (const [name, counts] of Object.entries(now.columns)) {
    const before = trained.columns[name];
    const missing = counts.missing / now.rows;
    const missingBefore = before && trained.rows > 0 ? before.missing / trained.rows : 0;
    const unseen = counts.unseen / now.rows;
    const outside = (counts.outside ?? 0) / now.rows;
    if (missing > missingBefore + contract.most_missing_increase) {
      found.push({
        kind: "missing",
        column: name,
        problem: problem(
          "contract_missing",
          `"${name}" is missing in ${formatShare(missing)} of the rows to score, but was in ${formatShare(missingBefore)} in training.`,
          `Look at its source; or raise contract.most_missing_increase (now ${contract.most_missing_increase}).`,
        ),
      });
    }
    if (unseen > contract.most_unseen) {
      found.push({
        kind: "unseen",
        column: name,
        problem: problem(
          "contract_unseen",
          `${formatShare(unseen)} of the rows to score have a "${name}" that training never saw.`,
          `Look at its source, or train again; or raise contract.most_unseen (now ${contract.most_unseen}).`,
        ),
      });
    }
    if (contract.most_outside !== undefined && outside > contract.most_outside) {
      found.push({
        kind: "outside",
        column: name,
        problem: problem(
          "contract_outside",
          `"${name}" lies outside of ${before?.low ?? "?"} to ${before?.high ?? "?"}, where training saw it, in ${formatShare(outside)} of the rows to score.`,
          `Look at its source, or train again; or raise contract.most_outside (now ${contract.most_outside}).`,
        ),
      });
    }
  }
  return found;
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
  const wrong =
    kind === "missing"
      ? missingIn(name)
      : kind === "unseen"
        ? unseenIn(name, levels)
        : low === undefined || high === undefined
          ? undefined
          : outsideIn(name, low, high);
  if (!wrong) return undefined;
  const start = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const names = [...new Set([...plan.file.roles.key.filter((each) => start.has(each)), name])];
  return filter(inputsToScore(plan, learned, names), wrong);
}
