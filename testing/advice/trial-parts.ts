/** Parts of files that the mistakes of trainings are made of. */
import type { Trial } from "./trial";

export const BINARY = "{column: answer, kind: binary}";
const CLASSES = "{column: kind, kind: classes}";

export const LOGISTIC: Trial = {
  target: BINARY,
  learner: "logistic_regression",
  train: "answer is not null",
};
export const BEYOND: Trial = { target: "{column: beyond, kind: binary}", learner: "logistic_regression" };
export const FIRM: Trial = { ...BEYOND, target: "{column: firm, kind: binary}" };
export const WORD: Trial = { ...BEYOND, target: "{column: word, kind: binary, positive: 'yes'}" };
/** Holdout from June on; what a step makes of a column there. */
export const LATER: Trial = { holdout: "{by: time, from: '2026-06-01'}", roles: ", time: seen" };
export const lackingLater = (column: string): string =>
  `{do: derive, columns: {${column}: "CASE WHEN seen >= '2026-06-01' THEN NULL ELSE x1 END"}}, `;
export const SLOW: Trial = {
  target: CLASSES,
  learner: "logistic_regression",
  of: "x1, x3, cat, many",
  steps: `{do: derive, columns: {many: "left(many, 2)"}}, `,
  settings: "{most_passes: 1, ridge: 0.000001}",
};
export const MANY =
  "{do: derive, columns: {many2: many, many3: many, many4: many, many5: many, many6: many}}, ";
export const NAIVE: Trial = { target: CLASSES, learner: "naive_bayes", of: "x1, cat" };
export const TWO_GAPS = `{do: derive, columns: {gap2: "gap ^ 2 + x3"}}`;
export const FINITE = `{do: filter, where: "endless < 1e300"}, `;
export const SCALED = "{do: scale, columns: [endless]}, ";
export const DERIVED = `{do: derive, columns: {endless: "least(endless, 1e9)"}}, `;
