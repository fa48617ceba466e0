import { writeColumnName } from "../expression/column-name";
import { factsOf, type Algorithm } from "../learn/algorithms";
import { candidateSchema, type PipelineFile, type PipelineSource, type TargetKind } from "./schema";

/** Which candidate is written, before its settings are read. */
interface CandidateEntry {
  readonly name: string;
  readonly algorithm: Algorithm;
}

const entry = (algorithm: Algorithm): CandidateEntry => ({
  name: factsOf(algorithm).title.toLowerCase(),
  algorithm,
});

/** The candidates of a file that names none: trees, which take gaps and texts as they are and suit every kind of target, and the base rate. */
export const standardCandidates = (): readonly CandidateEntry[] => [
  entry("boosted_trees"),
  entry("base_rate"),
];

/** A learner that is easy to read for a kind of target, and the base rate. */
export const readableCandidates = (kind: TargetKind): readonly CandidateEntry[] => [
  entry(kind === "number" ? "linear_regression" : "logistic_regression"),
  entry("base_rate"),
];

/** The condition for rows whose answer is known, and the one for rows that want it. */
export function standardRows(target: string): { readonly train: string; readonly score: string } {
  const name = writeColumnName(target);
  return { train: `${name} is not null`, score: `${name} is null` };
}

/**
 * A pipeline file with everything said that may be left out: rows with an answer train, rows without one are scored, and the standard
 * candidates are tried. What it does is the same as if the file said so itself.
 */
export function completeFile(source: PipelineSource): PipelineFile {
  const { from, train, score } = source.rows;
  const standard = standardRows(source.roles.target.column);
  return {
    ...source,
    rows: { from, train: train ?? standard.train, score: score ?? standard.score },
    candidates: source.candidates ?? standardCandidates().map((each) => candidateSchema.parse(each)),
  };
}
