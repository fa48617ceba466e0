import { formatNumber, formatShare } from "../format/numbers";
import { someOf } from "../format/some-names";
import { className, type Task } from "../learn/task";
import type { FigureNotes } from "./figures";
import type { MetricName } from "./metrics";

/** A figure as people read it: what is a share of something is a percentage. */
export const formatFigure = (metric: MetricName, value: number | null | undefined): string =>
  metric === "percentage_error" ? formatShare(value) : formatNumber(value);

/** Classes named in a sentence. */
const MOST_NAMED = 8;

/** Notes as a version keeps them; those of before have none. */
type KeptNotes = { readonly [Note in keyof FigureNotes]?: FigureNotes[Note] | undefined } & {
  readonly unscored?: number | undefined;
};

/** What a reader of figures must know beside them, in sentences. */
export function noteSentences(
  task: Task,
  { unknownAnswers = 0, absentClasses = [], zeroAnswers = 0, unscored = 0 }: KeptNotes,
): readonly string[] {
  const absent = absentClasses.map((code) => className(task, code));
  const named = someOf(absent, MOST_NAMED);
  return [
    ...(unknownAnswers > 0
      ? [
          `${formatNumber(unknownAnswers)} holdout rows have a class that no training row has; each counts as wrong, with a log loss of ${formatNumber(-Math.log(1e-15))}.`,
        ]
      : []),
    ...(absent.length > 0
      ? [
          `No holdout row has the ${absent.length === 1 ? "class" : "classes"} ${named}: averages over classes count ${absent.length === 1 ? "it" : "them"} as 0.`,
        ]
      : []),
    ...(unscored > 0
      ? [
          `${formatNumber(unscored)} holdout rows cannot be scored, because a required number is missing; they are not evaluated.`,
        ]
      : []),
    ...(zeroAnswers > 0
      ? [`The percentage error excludes ${formatNumber(zeroAnswers)} rows whose true value is 0.`]
      : []),
  ];
}
