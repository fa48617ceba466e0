import { learnedLines } from "./learned-lines";

test("learned values of every shape become lines under their own names", () => {
  expect(learnedLines({ values: { weight_g: 1083.5, gone: null } })).toEqual([
    { path: "weight_g", value: "1,083.5" },
    { path: "gone", value: "nothing: all missing in the training rows" },
  ]);
  expect(
    learnedLines({
      columns: {
        force: { overall: { centre: 1, spread: 2 }, entities: { "101": { centre: 3, spread: null } } },
      },
    }),
  ).toEqual([
    { path: "force, overall", value: "centre 1, spread 2" },
    { path: "force, entities, 101", value: "centre 3, spread nothing: all missing in the training rows" },
  ]);
  expect(learnedLines({ levels: { size: ["L", "M"] } })).toEqual([{ path: "size", value: "2: L, M" }]);
  expect(learnedLines({ texts: 9, terms: [{ term: "door", texts: 4 }] })).toEqual([
    { path: "texts", value: "9" },
    { path: "terms, door", value: "texts 4" },
  ]);
});
