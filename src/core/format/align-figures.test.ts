import fc from "fast-check";
import { alignWithin, areNumbers, figureColumn, paddedLength } from "./align-figures";
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

  it("are left as they are where the padded ones would be too wide, and where there are none", () => {
    const texts = ["1234.5", "0.123456789"];
    expect(alignWithin(texts, 13)).toBeUndefined();
    const align = alignWithin(texts, 14)!;
    expect(texts.map((text) => paddedLength(align(text)))).toEqual([14, 14]);
    expect(alignWithin([], 14)).toBeUndefined();
  });

  it("are told from dates, versions and codes", () => {
    expect(areNumbers(["1", "-2.50", "3e-05"])).toBe(true);
    for (const other of ["2026-06-30", "1.2.3", "12 kg", "", "NaN"])
      expect(areNumbers(["1", other])).toBe(false);
    expect(areNumbers([])).toBe(false);
  });
});
