import { standardCandidates, standardRows } from "./defaults";
import { candidateSchema, type PipelineFile, type PipelineSource } from "./schema";

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
    candidates:
      source.candidates ??
      standardCandidates().map((standardCandidate) => candidateSchema.parse(standardCandidate)),
  };
}
