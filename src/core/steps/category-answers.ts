import { hidden } from "../names/hidden";
import { formatNumber } from "../format/numbers";
import { column, isNotNull } from "../expression/ast";
import { problem, ProblemError } from "../problem";
import { filter } from "../relation/relation";
import { asText } from "./shared";
import type { LearnAnswer, LearnQuestion } from "./step";

/** More categories than this are an identifier or free text, and no category. */
export const MOST_CATEGORIES = 100_000;

/** The column with the category, in the answers of such questions. */
export const GROUP = hidden("category");

/** Measures for each category of a column among training rows; missing values are no category. */
export function categoryQuestion(
  name: string,
  measures: LearnQuestion["measures"],
  by: LearnQuestion["by"] = [],
): LearnQuestion {
  return {
    rows: (training) => filter(training, isNotNull(column(name))),
    by: [{ name: GROUP, expression: asText(column(name)) }, ...by],
    measures,
    limit: { order: [{ expression: column(GROUP) }], rows: MOST_CATEGORIES + 1 },
  };
}

/** The answer, or a stop that says how many categories are too many. */
export function withinLimit(
  answer: LearnAnswer,
  name: string,
  step: string,
  most = MOST_CATEGORIES,
): LearnAnswer {
  if (answer.length <= most) return answer;
  throw new ProblemError(
    problem(
      "too_many_levels",
      `"${name}" has ${answer.length > MOST_CATEGORIES ? `more than ${formatNumber(MOST_CATEGORIES)}` : formatNumber(answer.length)} categories in the training rows; at most ${formatNumber(most)} are accepted here.`,
      "Group rare ones in an earlier step, or exclude the column.",
      { step },
    ),
  );
}
