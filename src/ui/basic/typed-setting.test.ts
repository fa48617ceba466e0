import { mistakeIn, readTyped } from "./typed-setting";

const SHARE = { type: "number", minimum: 0, maximum: 1, default: 0.1 };
const COUNT = { type: "integer", exclusiveMinimum: 0, default: 20 };

test.each([
  ["0.25", SHARE, 0.25],
  ["0,25", SHARE, 0.25],
  ["25 %", SHARE, 0.25],
  ["12,5%", SHARE, 0.125],
  ["0.", SHARE, 0],
  ["0.1", SHARE, undefined],
  ["10 %", SHARE, undefined],
  ["", SHARE, undefined],
  ["many", SHARE, "many"],
  ["30", COUNT, 30],
  ["16, 8", { type: "array", default: [32] }, [16, 8]],
  ["32", { type: "array", default: [32] }, undefined],
])("“%s” is read as a person means it", (text, property, value) =>
  expect(readTyped(text, property)).toEqual(value),
);

test.each([
  ["many", SHARE, "“many” is not a number."],
  ["40", SHARE, "At most 1."],
  ["40 %", SHARE, undefined],
  ["-1", SHARE, "At least 0."],
  ["2.5", COUNT, "Enter a whole number."],
  ["0", COUNT, "More than 0."],
  ["", COUNT, undefined],
])("of “%s” it is said what is wrong", (text, property, mistake) =>
  expect(mistakeIn(text, property)).toBe(mistake),
);
