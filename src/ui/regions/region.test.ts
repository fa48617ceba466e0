import fc from "fast-check";
import { readCorners, writeCorners, type Corner } from "./region";

test("typed corners are read as they were written", () => {
  const number = fc.double({ noNaN: true, noDefaultInfinity: true }).map((value) => value + 0);
  const corners = fc.array(fc.tuple(number, number), { minLength: 3, maxLength: 8 });
  fc.assert(
    fc.property(corners, (points: readonly Corner[]) => {
      expect(readCorners(writeCorners(points))).toEqual(points);
    }),
  );
});

test.each([
  [
    "0 0; 1 0;1,1",
    [
      [0, 0],
      [1, 0],
      [1, 1],
    ],
  ],
  [
    "0, 0; 1, 0; 1, 1;",
    [
      [0, 0],
      [1, 0],
      [1, 1],
    ],
  ],
  ["0, 0; 1, 0", undefined],
  ["0, 0; 1, 0; 1", undefined],
  ["0, 0; 1, 0; one, 1", undefined],
  ["", undefined],
])("%s", (text, corners) => expect(readCorners(text)).toEqual(corners));
