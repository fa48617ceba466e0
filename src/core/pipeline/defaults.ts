import { writeColumnName } from "../expression/column-name";
import { factsOf, type Algorithm } from "../learn/algorithms";
import type { TargetKind } from "./schema";

/** Which candidate is written, before its settings are read. */
interface CandidateEntry {
  readonly name: string;
  readonly algorithm: Algorithm;
  readonly settings?: Readonly<Record<string, unknown>>;
}

const entry = (algorithm: Algorithm): CandidateEntry => ({
  name: factsOf(algorithm).title.toLowerCase(),
  algorithm,
});
/** Keeps coefficients from growing without bound where columns repeat each other or tell the classes apart without fail. */
const SLIGHT_RIDGE = { ridge: 0.001 };

/** The candidates of a file that names none: trees, which take gaps and texts as they are and suit every kind of target, and the base rate. */
export const standardCandidates = (): readonly CandidateEntry[] => [
  entry("boosted_trees"),
  entry("base_rate"),
];

/** The learner that is easiest to read for a kind of target. */
export const readableLearner = (kind: TargetKind): Algorithm =>
  kind === "number" ? "linear_regression" : "logistic_regression";

/** A learner, by itself the one that is easiest to read, and the base rate. */
export const readableCandidates = (
  kind: TargetKind,
  learner: Algorithm = readableLearner(kind),
): readonly CandidateEntry[] => [
  {
    ...entry(learner),
    ...(["linear_regression", "logistic_regression"].includes(learner) ? { settings: SLIGHT_RIDGE } : {}),
  },
  ...(learner === "base_rate" ? [] : [entry("base_rate")]),
];

/** The condition for rows whose answer is known, and the one for rows that want it. */
export function standardRows(target: string): { readonly train: string; readonly score: string } {
  const name = writeColumnName(target);
  return { train: `${name} is not null`, score: `${name} is null` };
}
