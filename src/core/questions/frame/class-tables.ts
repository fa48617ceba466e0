import { binary, call, column, double, isNotNull, sum, sumWhere } from "../../expression/ast";
import type { ClassMoments } from "../../learn/questions";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { aggregateRows, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { groupedNumbers } from "../groups";
import type { Question } from "../question";
import { chunks, MOST_RESULT_COLUMNS } from "../result-columns";
import { weightSum, type FrameRows } from "./frame-rows";

const CODE = hidden("code");
const momentName = (measure: "weight" | "sum" | "mean", place: number): string =>
  hidden(`${measure}_${place}`);

/** What is known of number columns, column by column, each by the code of the class. */
export type ColumnMoments = ReadonlyMap<string, ReadonlyMap<number, ClassMoments>>;

/** Each row with what {@link momentsQuestions} sums in its first pass over the rows of the row's class. */
function withClassMeans({ rows, weight = double(1) }: FrameRows, names: readonly string[]): Relation {
  const means = aggregateRows(
    rows,
    [TARGET_COLUMN],
    names.flatMap((name, place) => {
      const value = column(name);
      const present = sumWhere(weight, isNotNull(value));
      const total = sum(binary(weight, "*", value));
      return [
        { name: momentName("weight", place), expression: present },
        { name: momentName("sum", place), expression: total },
        {
          name: momentName("mean", place),
          expression: binary(total, "/", call("nullif", present, double(0))),
        },
      ];
    }),
  );
  return {
    kind: "join",
    how: "inner",
    left: rows,
    right: means,
    on: [{ left: TARGET_COLUMN, right: TARGET_COLUMN }],
    take: [
      { from: TARGET_COLUMN, name: CODE },
      ...names.flatMap((_, place) =>
        (["weight", "sum", "mean"] as const).map((measure) => ({
          from: momentName(measure, place),
          name: momentName(measure, place),
        })),
      ),
    ],
  };
}

/**
 * Weight, sum, mean and squared distances of number columns within each class, in two passes so that far-off means
 * keep their digits.
 */
export function momentsQuestions(
  frame: FrameRows,
  columns: readonly string[],
): readonly Question<ColumnMoments>[] {
  const weight = frame.weight ?? double(1);
  return chunks(columns, Math.floor(MOST_RESULT_COLUMNS / 4) - 1).map((names): Question<ColumnMoments> => {
    const { relation, read } = groupedNumbers(
      withClassMeans(frame, names),
      [CODE],
      names.flatMap((name, place) => {
        const distance = binary(column(name), "-", column(momentName("mean", place)));
        return [
          ...(["weight", "sum", "mean"] as const).map((measure) =>
            call("max", column(momentName(measure, place))),
          ),
          sum(binary(binary(weight, "*", distance), "*", distance)),
        ];
      }),
    );
    return {
      relation,
      purpose: "mean and spread of each number within each class",
      read: (rows) => {
        const groups = read(rows);
        const ofColumn = (place: number): ReadonlyMap<number, ClassMoments> =>
          new Map(
            groups.flatMap(({ keys: [code], values }) => {
              const [total, sum, mean, squares] = values.slice(4 * place, 4 * place + 4);
              const moments = {
                weight: total ?? 0,
                sum: sum ?? 0,
                mean: mean ?? Number.NaN,
                squares: squares ?? 0,
              };
              return code === null || code === undefined ? [] : [[code, moments] as const];
            }),
          );
        return new Map(names.map((name, place) => [name, ofColumn(place)]));
      },
    };
  });
}

/** Weight of each level of a category (index 0 is code 1) within each class: counts[level][class]. */
export function levelClassesQuestion(
  frame: FrameRows,
  name: string,
  levels: number,
  classes: number,
): Question<readonly (readonly number[])[]> {
  const { relation, read } = groupedNumbers(frame.rows, [name, TARGET_COLUMN], [weightSum(frame.weight)]);
  return {
    relation,
    purpose: `weight of each ${name} within each class`,
    read: (rows) => {
      const counts = Array.from({ length: levels }, () => new Array<number>(classes).fill(0));
      for (const { keys, values } of read(rows)) {
        const [code, ofClass] = keys;
        const line = counts[(code ?? 0) - 1];
        if (line && typeof ofClass === "number") line[ofClass] = values[0] ?? 0;
      }
      return counts;
    },
  };
}
