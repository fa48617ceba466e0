import { readShare, writeShare } from "./read-share";
import { shortenText } from "./shorten-text";
import fc from "fast-check";
import {
  formatBytes,
  formatDuration,
  formatNumber,
  formatShare,
  roundDown,
  roundSignificant,
  shortenDecimals,
} from "./numbers";

test.each([
  [0, "0"],
  [-0, "0"],
  [65770, "65,770"],
  [214030, "214,030"],
  [4569.809999999999, "4,569.8"],
  [60930, "60,930"],
  [1000, "1,000"],
  [3.2500000000000044, "3.25"],
  [0.8103, "0.8103"],
  [0.99999, "1"],
  [12.3456789, "12.346"],
  [123456.789, "123,457"],
  [1234567, "1,234,567"],
  [999999999999999, "999,999,999,999,999"],
  [1e15, "1e+15"],
  [1.23456789e18, "1.2346e+18"],
  [0.00001234, "0.00001234"],
  [0.000001, "0.000001"],
  [0.0000001234, "1.234e-7"],
  [-0.00000001, "-1e-8"],
  [-0.5, "-0.5"],
  [-1234.5, "-1,234.5"],
  [null, "–"],
  [undefined, "–"],
  [Number.NaN, "–"],
  [Infinity, "infinite"],
])("the number %p is written %s", (value, text) => {
  expect(formatNumber(value)).toBe(text);
});

test("no value between 1e-6 and 1e15 has an exponent, and what is written is the value to its digits", () => {
  fc.assert(
    fc.property(fc.double({ min: 1e-6, max: 1e15, maxExcluded: true, noNaN: true }), (value) => {
      const text = formatNumber(value);
      expect(text).toMatch(/^\d{1,3}(,\d{3})*(\.\d*[1-9])?$/);
      expect(formatNumber(-value)).toBe(`-${text}`);
      const back = Number(text.replaceAll(",", ""));
      expect(Math.abs(back - value) / value).toBeLessThanOrEqual(value < 1 ? 5.1e-4 : 5.1e-5);
    }),
  );
});

test.each([
  [1 / 3, "33.3 %"],
  [0.4, "40 %"],
  [0, "0 %"],
  [1, "100 %"],
  [-1e-12, "0 %"],
  [0.9999999999, "100 %"],
  [0.0004, "0.04 %"],
  [0.9996, "99.96 %"],
  [0.99951, "99.95 %"],
  [-0.021, "-2.1 %"],
  [12.5, "1,250 %"],
  [null, "–"],
])("the share %p is written %s", (value, text) => {
  expect(formatShare(value)).toBe(text);
});

test.each([
  [0, "0 B"],
  [999, "999 B"],
  [1500, "1.5 kB"],
  [32768, "32.8 kB"],
  [7_700_000, "7.7 MB"],
  [512_000_000, "512 MB"],
  [2e15, "2,000 TB"],
])("%d bytes are %s", (value, text) => {
  expect(formatBytes(value)).toBe(text);
});

test.each([
  [12, "12 ms"],
  [6600, "6.6 s"],
  [61_000, "1 min 1 s"],
  [119_700, "2 min 0 s"],
  [3_720_000, "1 h 2 min"],
])("%d ms take %s", (value, text) => {
  expect(formatDuration(value)).toBe(text);
});

test("decimals that a data type writes in full are shortened, and nothing else is", () => {
  expect(shortenDecimals("4569.809999999999")).toBe("4,569.8");
  expect(shortenDecimals("65770")).toBe("65770");
  expect(shortenDecimals("12.5")).toBe("12.5");
  expect(shortenDecimals("1.2.3.12345678")).toBe("1.2.3.12345678");
  expect(shortenDecimals(null)).toBeNull();
});

test("rounded values stay numbers", () => {
  expect(roundSignificant(-0.123456789, 3)).toBe(-0.123);
  expect(roundSignificant(6.6e-11, 1)).toBe(7e-11);
  expect(roundSignificant(Number.NaN, 3)).toBeNaN();
});

test("a long text of data is named by its beginning, whole characters of it", () => {
  expect(shortenText("elm", 3)).toBe("elm");
  expect(shortenText("elms", 3)).toBe("el…");
  expect(shortenText("🌳🌳🌳", 3)).toBe("🌳🌳🌳");
  expect([...shortenText("🌳".repeat(100), 5)]).toEqual(["🌳", "🌳", "🌳", "🌳", "…"]);
});

test("a number that is rounded down is never above itself, and nearly the same", () => {
  fc.assert(
    fc.property(fc.double({ min: 1e-12, max: 1, noNaN: true }), (value) => {
      const rounded = roundDown(value, 6);
      expect(rounded).toBeLessThanOrEqual(value);
      expect(value - rounded).toBeLessThan(2e-5 * value);
    }),
  );
  expect(roundDown(5 / 28, 6)).toBe(0.178571);
  expect(roundDown(0.9999999, 6)).toBe(0.999999);
});

test("shares are read as people write them, and written so that they are read back", () => {
  expect(["20 %", "20%", "0.2", "0,2", ".2", "12,5 %"].map(readShare)).toEqual([
    0.2, 0.2, 0.2, 0.2, 0.2, 0.125,
  ]);
  expect(["", "0", "1", "100 %", "20", "-0.2", "a fifth", "0.2.1"].map(readShare)).toEqual(
    Array(8).fill(undefined),
  );
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 9999 }), (count) => {
      expect(readShare(writeShare(count / 10_000))).toBe(count / 10_000);
    }),
  );
});
