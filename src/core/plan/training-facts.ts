import { call, cast, column, countRows, type Expression } from "../expression/ast";
import { prune } from "../relation/prune";
import { aggregateRows, filter, type NamedExpression, type Relation } from "../relation/relation";
import type { LearnedValues } from "./build";
import { learnedRows, prepared, type FrameRows } from "./frame";
import type { CheckedPlan, Feature } from "./plan";

/** What training rows hold in a feature, when all steps are done. */
export interface FeatureFacts extends Pick<Feature, "name" | "type"> {
  readonly kind: "number" | "category";
  readonly missing: number;
  /** Different values: exactly for categories, at most 2 for numbers. */
  readonly different: number;
}

/** What can be known of training rows before anything is fitted. */
export interface TrainingFacts {
  readonly rows: number;
  readonly features: readonly FeatureFacts[];
  readonly answer: { readonly missing: number; readonly different: number };
}

/** Features that one statement asks about. */
const AT_ONCE = 200;
const ROWS = "rows";
const [MISSING, DIFFERENT] = ["missing", "different"] as const;

const isCounted = ({ kind }: Feature): boolean => kind === "number" || kind === "category";

const absent = (value: Expression): Expression => ({
  ...call("count"),
  star: true,
  filter: { kind: "is", operand: value, test: "null", negated: false },
});

/** Smallest and largest are cheaper than counting values, and tell as well whether there are two. */
function spread(value: Expression, isOrdered: boolean): Expression {
  if (!isOrdered) return { ...call("count", cast(value, "text")), distinct: true };
  const [low, high] = [call("min", value), call("max", value)];
  return {
    kind: "case",
    branches: [
      {
        when: { kind: "is", operand: low, test: "null", negated: false },
        then: { kind: "literal", type: "number", text: "0" },
      },
      {
        when: { kind: "binary", operator: "=", left: low, right: high },
        then: { kind: "literal", type: "number", text: "1" },
      },
    ],
    otherwise: { kind: "literal", type: "number", text: "2" },
  };
}

const valueOf = ({ name, type }: Pick<Feature, "name" | "type">): Expression =>
  type === "boolean" ? cast(column(name), "integer") : column(name);

function measures(value: Expression, place: string, isOrdered: boolean): readonly NamedExpression[] {
  return [
    { name: `${MISSING}_${place}`, expression: absent(value) },
    { name: `${DIFFERENT}_${place}`, expression: spread(value, isOrdered) },
  ];
}

/**
 * Questions about the training rows when all steps are done, each of which gives one row: rows, and of the answer and every feature
 * missing and different values. The answers are read by {@link readTrainingFacts}.
 * @param from where the rows come from, as for a training
 */
export function trainingFactsRelations(
  plan: CheckedPlan,
  learned: LearnedValues,
  from: FrameRows,
): readonly Relation[] {
  const rows = filter(prepared(plan, learned, from), learnedRows());
  const features = plan.features.filter(isCounted);
  const chunks = Math.max(1, Math.ceil(features.length / AT_ONCE));
  return Array.from({ length: chunks }, (_, chunk) => {
    const first = chunk * AT_ONCE;
    const asked = features
      .slice(first, first + AT_ONCE)
      .flatMap((feature, place) =>
        measures(valueOf(feature), String(first + place), feature.kind === "number"),
      );
    const { kind } = plan.file.roles.target;
    const answer = kind === "binary" ? cast(plan.target, "integer") : plan.target;
    const own = chunk === 0 ? measures(answer, "answer", kind !== "classes") : [];
    const all = [{ name: ROWS, expression: countRows }, ...own, ...asked];
    return prune(aggregateRows(rows, [], all), new Set(all.map(({ name }) => name)));
  });
}

/** The facts that the answers to {@link trainingFactsRelations} hold. */
export function readTrainingFacts(
  plan: CheckedPlan,
  answers: readonly Readonly<Record<string, unknown>>[],
): TrainingFacts {
  const found = Object.assign({}, ...answers) as Readonly<Record<string, unknown>>;
  const at = (measure: string, place: string | number): number => Number(found[`${measure}_${place}`] ?? 0);
  return {
    rows: Number(found[ROWS] ?? 0),
    answer: { missing: at(MISSING, "answer"), different: at(DIFFERENT, "answer") },
    features: plan.features.filter(isCounted).map(({ name, type, kind }, place) => ({
      name,
      type,
      kind: kind === "category" ? "category" : "number",
      missing: at(MISSING, place),
      different: at(DIFFERENT, place),
    })),
  };
}
