import type { Link } from "../learn/links";
import type { Reasons } from "./shapley";

/** What explanations are measured against: the usual value of each feature. */
export interface Background {
  readonly means: Readonly<Record<string, number>>;
  /** The most frequent category of each category column. */
  readonly usual: Readonly<Record<string, string | null>>;
}

/** In what reasons add up. */
export type ReasonScale = "log odds" | "the prediction" | "log of the class's share";

/** In what the reasons of a model add up, by how its sums become predictions. */
export const SCALE_OF_LINK: Readonly<Record<Link, ReasonScale>> = {
  identity: "the prediction",
  logistic: "log odds",
  softmax: "log of the class's share",
};

/** Why a row was predicted as it was: parts by column that add up, with the base, to the predictor. */
export interface ExplainedRow extends Reasons {
  readonly scale: ReasonScale;
  /** Whether the parts are exact Shapley values, or what each column says by itself. */
  readonly exact: boolean;
}
