import { formatNumber } from "../format/numbers";
import { someNames } from "../format/some-names";
import { warning, type Problem } from "../problem";
import type { FitOptions } from "./fitting";
import type { NumberSummary } from "./linear/design";
import type { FrameSummary } from "./questions";

/** A deviation this small beside the mean is rounding: two or three units in the last place of a double (IEEE 754: 2.2e-16). */
const ROUNDING = 1e-15;
/** Features that are named one by one. */
const MOST_NAMED = 20;

/** Whether a column has one value only. A deviation at the size of rounding is a constant, whatever the last digits say. */
export const isConstant = (summary: NumberSummary): boolean =>
  Number.isFinite(summary.mean) &&
  (summary.varies === false || !(summary.deviation > ROUNDING * Math.abs(summary.mean)));

const list = (names: readonly string[]): string => someNames(names, MOST_NAMED);

/** The features that no learner can use, each with the reason: those without a value, and those with one value only. */
export function leftOutWarnings(
  { rows, numbers, categories }: FrameSummary,
  { texts }: Pick<FitOptions, "texts" | "categories">,
): readonly Problem[] {
  const terms = new Set((texts ?? []).flat());
  const empty = numbers.filter((number) => number.missing === rows).map((number) => number.column);
  const constant = [
    ...numbers.filter((number) => number.missing < rows && isConstant(number)).map((number) => number.column),
    ...categories
      .filter((category) => category.rows.filter((count) => count > 0).length < 2)
      .map((category) => category.column),
  ];
  const told = (names: readonly string[], what: string): readonly Problem[] => {
    const own = names.filter((name) => !terms.has(name));
    const ofTexts = names.length - own.length;
    const [has, is] = own.length === 1 ? ["has", "is"] : ["have", "are"];
    return [
      ...(own.length > 0
        ? [
            warning(
              "constant_feature",
              `${list(own)} ${has} ${what} in the training rows and ${is} excluded from the model.`,
              "Exclude these features, or find out why they do not vary.",
            ),
          ]
        : []),
      ...(ofTexts > 0
        ? [
            warning(
              "constant_feature",
              `${formatNumber(ofTexts)} terms of texts have ${what} in the training rows and are excluded from the model.`,
            ),
          ]
        : []),
    ];
  };
  return [...told(empty, "no value"), ...told(constant, "a single value")];
}
