import { binary, cast, column, integer, NULL, text, when, type Expression } from "../expression/ast";
import type { Delivery } from "../pipeline/operating-schema";
import { filter, outputColumns, project, type NamedExpression, type Relation } from "../relation/relation";
import { belongsTo } from "../steps/step";
import type { LearnedValues } from "./build";
import { OUTSIDE, partedRows, PARTS } from "./parted-rows";
import type { CheckedPlan } from "./plan";
import { BLIND_PART } from "./split";

/** Names of the columns that say which run made a row of features, and from which file. */
export const FEATURE_STAMPS = ["file_version", "run_id", "run_time", "made_at"] as const;

/** What every row of features says of the run that made it. */
export interface FeatureStamps {
  /** Version of the pipeline's file. */
  readonly file: number;
  readonly run: string;
  readonly runTime: string;
  readonly madeAt: string;
}

const stampItems = ({ file, run, runTime, madeAt }: FeatureStamps): readonly NamedExpression[] => [
  { name: "file_version", expression: integer(file) },
  { name: "run_id", expression: cast(text(run), "uuid") },
  { name: "run_time", expression: cast(text(runTime), "timestamptz") },
  { name: "made_at", expression: cast(text(madeAt), "timestamptz") },
];

/**
 * Columns of a table of features: key, answer, the columns with other roles, the features as the learner gets them (a category that was
 * encoded as its indicator columns), and what the delivery lists besides. Texts that have become terms are left out.
 * @param made columns of the rows when all steps are done
 */
export function featureColumns(
  plan: CheckedPlan,
  { columns }: Pick<Delivery, "columns">,
  made: readonly string[],
): readonly string[] {
  const { key, target, time, group, weight } = plan.file.roles;
  const bundles = plan.features.filter(({ kind }) => kind === "bundle").map(({ name }) => name);
  const features = plan.features.flatMap(({ name, kind }) => {
    if (kind === "sparse") return [];
    return kind === "bundle" ? made.filter((known) => belongsTo(known, [name], plan.main.output)) : [name];
  });
  const roles = [time, group, weight].filter((name) => name !== undefined && !bundles.includes(name));
  const wanted = [...key, target.column, ...roles, ...features, ...columns];
  return [...new Set(wanted.filter((name) => name !== undefined))];
}

/**
 * Rows that train, judge or are to be scored, as the steps prepare them: {@link featureColumns}, the part that each row is in, and the
 * stamps. Training rows have what the learner gets of them (means of the answer without their own fold), all others what scoring gives
 * them. Answers of the blind part stay out.
 * @param narrow takes the rows that are wanted of all
 */
export function featuresRelation(
  plan: CheckedPlan,
  learned: LearnedValues,
  delivery: Pick<Delivery, "columns">,
  { stamps, narrow }: { readonly stamps: FeatureStamps; readonly narrow: (rows: Relation) => Relation },
): Relation {
  const parted = partedRows(plan, learned, plan.main.steps.length);
  const made = outputColumns(parted);
  const part = made.at(-1)!;
  const outside = binary(column(part), "=", text(OUTSIDE));
  const asked: Expression = binary({ kind: "not", operand: outside }, "or", plan.score);
  const rows = narrow(filter(parted, asked));
  const blind = binary(column(part), "=", text(PARTS.get(BLIND_PART)!));
  const { target } = plan.file.roles;
  const type = plan.main.output.get(target.column)?.type ?? "text";
  const valueOf = (name: string): Expression =>
    name === target.column ? when(blind, cast(NULL, type), column(name)) : column(name);
  return project(rows, [
    ...featureColumns(plan, delivery, made).map((name) => ({ name, expression: valueOf(name) })),
    { name: part, expression: column(part) },
    ...stampItems(stamps),
  ]);
}
