/** Beyond this the logistic function is 0 or 1 to double precision, and exp() would be infinite. */
export const MOST_LOG_ODDS = 700;

/** What sums are turned into to become predictions. */
export type Link = "identity" | "logistic" | "softmax";

/** Probability of yes from log odds. */
export const probabilityOf = (odds: number): number =>
  1 / (1 + Math.exp(-Math.max(-MOST_LOG_ODDS, Math.min(MOST_LOG_ODDS, odds))));

/** Probabilities of classes from their predictors. */
export function shareOut(predictors: readonly number[]): readonly number[] {
  const most = Math.max(...predictors);
  const parts = predictors.map((predictor) => Math.exp(Math.max(-MOST_LOG_ODDS, predictor - most)));
  const total = parts.reduce((sum, part) => sum + part, 0);
  return parts.map((part) => part / total);
}

/** Turns predictors into predictions. */
export function linked(link: Link, predictors: readonly number[]): readonly number[] {
  if (link === "softmax") return shareOut(predictors);
  return link === "logistic" ? [probabilityOf(predictors[0]!)] : predictors;
}
