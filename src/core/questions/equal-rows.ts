import { z } from "zod";
import { asDouble, binary, call, column, countRows, double } from "../expression/ast";
import { HOLDOUT_PART } from "../plan/split";
import { aggregateRows, common, project, type Relation, type TableReference } from "../relation/relation";
import { hidden } from "../names/hidden";
import { longRows, PLACE, VALUE } from "./long-rows";
import { doubleValue, onlyRow, type Question } from "./question";
import { rowsOfPart, trainingRows } from "./training-rows";

const [DIGEST, FOUND] = ["digest", "found"].map(hidden) as [string, string];

const countsRow = z.object({ looked: doubleValue, equal: doubleValue });

/**
 * Holdout rows that equal a training row in all features, by a hash of 64 bits.
 * @param share of the holdout rows that are looked at, drawn at random
 * @returns how many were looked at, and how many of them have an equal
 */
export function equalRowsQuestion(
  frame: TableReference,
  features: readonly string[],
  share: number,
): Question<{ readonly looked: number; readonly equal: number }> {
  const digests = (rows: Relation): Relation =>
    project(rows, [{ name: DIGEST, expression: call("row_hash", ...features.map((name) => column(name))) }]);
  const held = common(digests(rowsOfPart(frame, features, HOLDOUT_PART, share)), "held");
  const among: Relation = {
    kind: "join",
    how: "inner",
    left: digests(trainingRows(frame, features)),
    right: aggregateRows(held, [DIGEST], []),
    on: [{ left: DIGEST, right: DIGEST }],
    take: [],
  };
  const training = aggregateRows(among, [DIGEST], [{ name: FOUND, expression: countRows }]);
  const both: Relation = {
    kind: "join",
    how: "left",
    left: held,
    right: training,
    on: [{ left: DIGEST, right: DIGEST }],
    take: [{ from: FOUND, name: FOUND }],
  };
  return {
    relation: aggregateRows(
      both,
      [],
      [
        { name: "looked", expression: asDouble(countRows) },
        { name: "equal", expression: asDouble(call("count", column(FOUND))) },
      ],
    ),
    purpose: "holdout rows that equal a training row",
    read: (rows) => onlyRow(rows, countsRow),
  };
}

const agreementRow = z.object({ place: z.number(), pairs: doubleValue, agreeing: doubleValue });

/**
 * How often two training rows agree in a feature, by feature; two missing values agree.
 * @param share of the rows that are counted, drawn at random
 */
export function agreementsQuestion(
  frame: TableReference,
  features: readonly string[],
  share: number,
): Question<readonly number[]> {
  const long = longRows(trainingRows(frame, features, share), features);
  const counted = aggregateRows(long, [PLACE, VALUE], [{ name: "rows", expression: asDouble(countRows) }]);
  const rows = column("rows");
  const all = call("sum", rows);
  const one = double(1);
  const summed = aggregateRows(
    counted,
    [PLACE],
    [
      { name: "agreeing", expression: call("sum", binary(rows, "*", binary(rows, "-", one))) },
      { name: "pairs", expression: binary(all, "*", binary(all, "-", one)) },
    ],
  );
  return {
    relation: project(summed, [
      { name: "place", expression: column(PLACE) },
      { name: "agreeing", expression: column("agreeing") },
      { name: "pairs", expression: column("pairs") },
    ]),
    purpose: "rows equal by chance",
    read: (found) => {
      const shares = new Map(
        z
          .array(agreementRow)
          .parse(found)
          .map(({ place, agreeing, pairs }) => [place, pairs === 0 ? 0 : agreeing / pairs]),
      );
      return features.map((_, place) => shares.get(place) ?? 0);
    },
  };
}
