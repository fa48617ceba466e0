import { oddSpellings } from "./spellings";

const groups = (values: Readonly<Record<string, number>>): readonly (readonly string[])[] =>
  oddSpellings(Object.entries(values).map(([value, rows]) => ({ value, rows }))).map((group) =>
    group.map((spelling) => spelling.value),
  );

test("case, blanks, signs and rare slips of a letter make one category", () => {
  expect(
    groups({
      Swiftlane: 900,
      swiftlane: 40,
      "SWIFT LANE": 12,
      Swiftlaen: 3,
      "Blue Heron": 500,
      "Blue-Heron": 5,
      Norrpost: 300,
      Norpost: 2,
    }),
  ).toEqual([
    ["Swiftlane", "swiftlane", "SWIFT LANE", "Swiftlaen"],
    ["Blue Heron", "Blue-Heron"],
    ["Norrpost", "Norpost"],
  ]);
});

test("short codes, numbers, and words that are both frequent stay apart", () => {
  expect(
    groups({ S: 10, M: 10, "18-25": 100, "18-26": 1, small: 100, smell: 90, café: 10, cafe: 3 }),
  ).toEqual([["café", "cafe"]]);
});
