import type { NearestSearch, TermWeights } from "@/core/expression/ast";
import type { Value } from "./values";

/** The runs of one to `longest` words of a text: lower-case runs of letters and digits. */
export function wordRuns(text: string, longest: number): readonly string[] {
  const words = text.toLowerCase().match(/[\p{L}\p{N}]+/gu);
  return Array.from({ length: longest }, (_, more) =>
    (words ?? []).flatMap((_word, place) =>
      place + more < words!.length ? [words!.slice(place, place + more + 1).join(" ")] : [],
    ),
  ).flat();
}

/** A sparse vector of a text: minus the term's number, then its weight, in the order of the numbers. */
export function termsOf(text: string, { vocabulary, longest, measure }: TermWeights): Value {
  const counts = new Map<string, number>();
  for (const term of wordRuns(text, longest)) counts.set(term, (counts.get(term) ?? 0) + 1);
  return vocabulary.flatMap(({ term, weight }, index) => {
    const count = counts.get(term);
    return count === undefined ? [] : [-(index + 1), (measure === "count" ? count : 1) * weight];
  });
}

/** The answers of the nearest among kept rows. */
export function nearestOf(
  search: NearestSearch,
  numbers: readonly (number | null)[],
  categories: readonly (string | null)[],
): Value {
  const distances = search.answers.map((answer, place) => {
    const apart = search.numbers.reduce<number | null>((sum, { among }, index) => {
      const value = numbers[index];
      return sum === null || value === null || value === undefined
        ? null
        : sum + (value - among[place]!) ** 2;
    }, 0);
    const different = search.categories.filter(
      ({ among }, index) => among[place] !== categories[index],
    ).length;
    return { answer, place, square: apart === null ? Number.NaN : apart + different };
  });
  const nearest = distances
    .toSorted((left, right) => left.square - right.square || left.place - right.place)
    .slice(0, search.k)
    .map(({ answer, square }) => ({
      answer,
      weight: search.near === undefined ? 1 : 1 / (Math.sqrt(square) + search.near),
    }));
  const total = nearest.reduce((sum, { weight }) => sum + weight, 0);
  const sumOf = (rows: typeof nearest): number => rows.reduce((sum, { weight }) => sum + weight, 0);
  if (search.classes === 0)
    return [nearest.reduce((sum, { answer, weight }) => sum + weight * answer, 0) / total];
  return Array.from(
    { length: search.classes },
    (_, code) => sumOf(nearest.filter(({ answer }) => answer === code)) / total,
  );
}
