import { formatNumber, formatShare } from "../format/numbers";
import type { Finding, Judgement } from "../evaluate/judgement";
import { isBetter, METRICS, metricsFor, type Figures } from "../evaluate/metrics";
import type { Task } from "../learn/task";
import type { CheckedPlan } from "../plan/plan";

/** What one feature says by itself; from this on it says too much: for yes and no an AUC of 0.95. */
const TOO_STRONG: Readonly<Record<Task["kind"], number>> = { binary: 0.9, number: 0.95, classes: 0.9 };
/** Share of rows with a value of their own from which on a column is nearly a key. */
const NEARLY_KEY = 0.9;
/** Share of all importance from which on one feature stands for the model. */
const DOMINATES = 0.7;

/** What a feature, alone against the target, gives reason to ask. */
export function aloneFinding(task: Task["kind"], feature: string, strength: number): Finding | undefined {
  if (strength < TOO_STRONG[task]) return undefined;
  const says = {
    binary: `has an AUC of ${formatNumber((strength + 1) / 2)}`,
    number: `explains ${formatShare(strength)} of the target's variance`,
    classes: `explains ${formatShare(strength)} of the classes`,
  }[task];
  return {
    code: "alone_too_strong",
    feature,
    message: `“${feature}” alone ${says}.`,
    hint: "A column this strong is often known only after the prediction. Find out when it is written; train without it and compare.",
  };
}

/** A feature that has nearly as many values as there are rows. */
export function keyFinding(feature: string, values: number, rows: number): Finding | undefined {
  if (rows < 50 || values < NEARLY_KEY * rows) return undefined;
  return {
    code: "nearly_a_key",
    feature,
    message: `“${feature}” has a distinct value in ${formatShare(values / rows)} of the rows.`,
    hint: "An identifier does not generalise to new rows. List it under roles.exclude, or train without it.",
  };
}

/** What the file itself gives reason to ask: features by their descent, and a time order that the split ignores. */
export function planFindings(plan: CheckedPlan): readonly Finding[] {
  const descent = plan.warnings
    .filter((warning) => warning.code === "known_later" || warning.code === "from_target_source")
    .flatMap((warning): Finding[] => {
      const feature = /^The feature "(.+?)" descends/.exec(warning.message)?.[1];
      return feature !== undefined && plan.features.some((known) => known.name === feature)
        ? [
            {
              code: warning.code,
              message: warning.message,
              ...(warning.hint ? { hint: warning.hint } : {}),
              feature,
            },
          ]
        : [];
    });
  const { holdout, roles } = plan.file;
  const scattered = roles.time !== undefined && (holdout.by === "key" || holdout.by === "stratified");
  return [
    ...descent,
    ...(scattered
      ? [
          {
            code: "time_order_broken",
            message: `Rows have a time (“${roles.time}”), but the holdout is drawn from all of it.`,
            hint: "The model is evaluated on days it was trained on. A holdout by time is a more realistic test of future rows.",
          },
        ]
      : []),
  ];
}

/** What the result gives reason to ask: perfection, one feature that stands for all, a holdout far easier than the folds. */
export function resultFindings(
  kind: Task["kind"],
  judged: Pick<Judgement, "figures" | "intervals" | "folds" | "importance">,
): readonly Finding[] {
  const found: Finding[] = [];
  const { figures, importance, folds, intervals } = judged;
  const strength = strengthOf(kind, figures);
  const [first] = importance;
  if (strength >= 0.9999)
    found.push({
      code: "perfect",
      message: "All holdout predictions are correct.",
      hint: "This is rarely genuine. Check the most important features and when they are known.",
      ...(first ? { feature: first.column } : {}),
    });
  const all = importance.reduce((sum, feature) => sum + Math.max(0, feature.worse), 0);
  if (first && all > 0 && first.worse / all >= DOMINATES && strength >= 0.9 && importance.length > 1) {
    found.push({
      code: "one_dominates",
      feature: first.column,
      message: `“${first.column}” carries ${formatShare(first.worse / all)} of the importance, and the model is nearly perfect.`,
      hint: "Find out when it is written; train without it and compare.",
    });
  }
  const [metric] = metricsFor(kind);
  const holdout = figures[metric!];
  const parts = folds.flatMap((fold) => {
    const value = fold.figures[metric!];
    return typeof value === "number" ? [value] : [];
  });
  const interval = intervals[metric!];
  if (parts.length > 1 && typeof holdout === "number" && interval) {
    const mean = parts.reduce((sum, part) => sum + part, 0) / parts.length;
    const best = parts.reduce((most, part) => (isBetter(metric!, part, most) ? part : most));
    const apart = METRICS[metric!].better === "low" ? interval[1] < mean : interval[0] > mean;
    if (apart && isBetter(metric!, holdout, best))
      found.push({
        code: "holdout_too_easy",
        message: `The holdout's ${METRICS[metric!].title} of ${formatNumber(holdout)} is better than that of every fold (mean ${formatNumber(mean)}).`,
        hint: "The holdout may be easier than the rest, or share rows with the training rows. Check how they differ.",
      });
  }
  return found;
}

/** How near to perfect the figures are, from 0 to 1. */
function strengthOf(kind: Task["kind"], figures: Figures): number {
  if (kind === "binary") return Math.max(0, 2 * (figures.auc ?? 0.5) - 1);
  return Math.max(0, (kind === "number" ? figures.r_squared : figures.accuracy) ?? 0);
}

/** Findings by which good figures may come from a column that gives the answer away. */
const LEAKS: ReadonlySet<string> = new Set([
  "alone_too_strong",
  "known_later",
  "from_target_source",
  "perfect",
  "one_dominates",
]);

/** Findings that put good figures in doubt. */
export const leaksAmong = (findings: readonly Finding[]): readonly Finding[] =>
  findings.filter((finding) => LEAKS.has(finding.code));
