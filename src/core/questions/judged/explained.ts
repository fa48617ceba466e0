import { z } from "zod";
import { binary, call, cast, column, text, type Expression } from "../../expression/ast";
import { featureRow } from "../../learn/feature-row";
import type { FeatureRow } from "../../learn/task";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { project } from "../../relation/relation";
import { doubleValue, type Question } from "../question";
import { judgedRows, type JudgedTable } from "./judged-rows";

const explainedRow = z.looseObject({ [TARGET_COLUMN]: doubleValue });

/**
 * Some judged rows with features, the same every time: the first in the order of a hash of their keys.
 * @param most how many rows at the most
 */
export function explainedQuestion(
  judged: JudgedTable,
  key: readonly string[],
  features: { readonly numbers: readonly string[]; readonly categories: readonly string[] },
  most: number,
): Question<readonly { readonly features: FeatureRow; readonly target: number }[]> {
  const names = [...new Set([...features.numbers, ...features.categories, TARGET_COLUMN])];
  const texts: readonly Expression[] = key.map((name) => cast(column(name), "text"));
  const joined = texts.reduce((left, right) => binary(binary(left, "||", text(",")), "||", right));
  return {
    relation: project(
      {
        kind: "limit",
        input: judgedRows(judged, [...names, ...key]),
        order: [{ expression: call("md5", joined) }],
        rows: most,
      },
      names.map((name) => ({ name, expression: column(name) })),
    ),
    purpose: "some holdout rows to explain the model with",
    read: (rows) =>
      z
        .array(explainedRow)
        .parse(rows)
        .map((row) => ({
          features: featureRow(row, features.numbers, features.categories),
          target: row[TARGET_COLUMN] as number,
        })),
  };
}
