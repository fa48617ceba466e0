import fc from "fast-check";
import { figureColumn } from "./align-figures";
import { formatDuration, formatNumber } from "./numbers";

describe("figures of a column", () => {
  it("are equally long and have their decimal points under each other, whatever their size and unit", () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e9, max: 1e9, noNaN: true }), { minLength: 1 }), (values) => {
        for (const write of [formatNumber, (value: number) => formatDuration(Math.abs(value))]) {
          const column = figureColumn(values, write);
          const padded = values.map(column);
          expect(
            new Set(padded.map(({ before, text, after }) => `${before}${text}${after}`.length)).size,
          ).toBe(1);
          const points = padded.map(
            ({ before, text }) => before.length + /^[+-]?[\d,]+/.exec(text)![0].length,
          );
          expect(new Set(points).size).toBe(1);
          expect(padded.map(({ text }) => text)).toEqual(values.map(write));
        }
      }),
    );
  });

  it("leave what is missing at the units", () => {
    const column = figureColumn([0.25, 12, null], formatNumber);
    expect([0.25, 12, null].map((value) => column(value).after.length)).toEqual([0, 3, 3]);
    expect(column(null).before.length).toBe(1);
  });
});
