/** Pipelines over the table that src/runs/training/advice.test.ts makes. */
export interface Trial {
  /** Columns that are kept as features. */
  readonly of?: string;
  readonly target?: string;
  readonly learner?: string;
  readonly settings?: string;
  readonly steps?: string;
  readonly roles?: string;
  readonly train?: string;
  readonly holdout?: string;
  readonly key?: string;
  readonly more?: string;
}

const NUMBER = "{column: level, kind: number}";

/** A pipeline file for a trial. */
export const trialFile = (name: string, trial: Trial): string => {
  const { of = "x1, x3", target = NUMBER, steps = "", roles = "", key = "id" } = trial;
  const column = /column: (\w+)/.exec(target)![1]!;
  const kept = [key, column, of, /weight: (\w+)/.exec(roles)?.[1], /(?:group|time): (\w+)/.exec(roles)?.[1]];
  return `ravlen: 1
name: ${name}
strands: [{name: rows, from: lab.odd, steps: [${steps}{do: keep, columns: [${kept.filter(Boolean).join(", ")}]}]}]
roles: {key: [${key}], target: ${target}${roles}}
rows: {from: rows, train: ${trial.train ?? "'true'"}, score: 'true'}
holdout: ${trial.holdout ?? "{share: 0.3, seed: 3}"}
candidates: [{name: it, algorithm: ${trial.learner ?? "linear_regression"}, settings: ${trial.settings ?? "{}"}}]
${trial.more ?? ""}`;
};
