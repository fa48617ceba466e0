import { asDouble, column, countWhere, isNull } from "../../expression/ast";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { outputColumn } from "../../plan/score";
import { table, type TableReference } from "../../relation/relation";
import { numbersOf } from "../groups";
import type { Question } from "../question";

/** How many judged rows have no prediction, and how many no target. */
export function gapsQuestion(
  judged: TableReference,
): Question<{ readonly unscored: number; readonly untargeted: number }> {
  const output = outputColumn(0);
  const { relation, read } = numbersOf(
    table(judged, [output, TARGET_COLUMN]),
    [output, TARGET_COLUMN].map((name) => asDouble(countWhere(isNull(column(name))))),
  );
  return {
    relation,
    purpose: "rows without a score or target",
    read: (rows) => {
      const [unscored, untargeted] = read(rows);
      return { unscored: unscored ?? 0, untargeted: untargeted ?? 0 };
    },
  };
}
