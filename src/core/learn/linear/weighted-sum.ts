import type { Places, ReadColumns, Values } from "../model-kind";
import type { LinearPart } from "./linear-part";

/** A weighted sum of columns by their places. NaN when a number is missing and nothing stands in for it. */
export function compileSum(part: LinearPart, places: Places): (values: Readonly<Values>) => number {
  const numbers = Int32Array.from(part.numbers, (number) => places.get(number.column)!);
  const coefficients = Float64Array.from(part.numbers, (number) => number.coefficient);
  const fills = Float64Array.from(part.numbers, (number) => number.fill ?? Number.NaN);
  const categories = part.categories.map((category) => ({
    place: places.get(category.column)!,
    unseen: category.unseen,
    levels: new Map(category.levels.map((level) => [level.level, level.coefficient])),
  }));
  return (values) => {
    let sum = part.intercept;
    for (let index = 0; index < numbers.length; index += 1) {
      const value = values[numbers[index]!];
      sum += coefficients[index]! * (typeof value === "number" ? value : fills[index]!);
    }
    for (const { place, unseen, levels } of categories)
      sum += levels.get((values[place] ?? null) as string | null) ?? unseen;
    return sum;
  };
}

export const columnsOfSum = (part: LinearPart): ReadColumns => ({
  numbers: part.numbers.map((number) => number.column),
  categories: part.categories.map((category) => category.column),
});
