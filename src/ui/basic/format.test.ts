import { ago, bytes, count, duration, figure, moment, share } from "./format";

test.each([
  [0, "0 B"],
  [999, "999 B"],
  [1500, "1.5 kB"],
  [32768, "32.8 kB"],
  [7_700_000, "7.7 MB"],
  [512_000_000, "512 MB"],
  [2e15, "2000 TB"],
])("%d bytes are %s", (value, text) => {
  expect(bytes(value)).toBe(text);
});

test.each([
  [0, "0"],
  [12.3456789, "12.35"],
  [0.00001234, "1.23e-5"],
  [1234567, "1.23e+6"],
  [-0.5, "-0.5"],
  [100, "100"],
  [null, "–"],
  [Number.NaN, "–"],
])("the figure %p is written %s", (value, text) => {
  expect(figure(value)).toBe(text);
});

test.each([
  [12, "12 ms"],
  [6600, "6.6 s"],
  [61_000, "1 min 1 s"],
  [3_720_000, "1 h 2 min"],
])("%d ms take %s", (value, text) => {
  expect(duration(value)).toBe(text);
});

test("times say their zone, counts have separators, shares of nothing are no number", () => {
  expect(moment(new Date("2026-06-30T21:40:59Z"))).toBe("2026-06-30 21:40 UTC");
  expect(count(1234567)).toBe("1,234,567");
  expect(count(null)).toBe("–");
  expect(share(1, 3)).toBe("33.3 %");
  expect(share(0, 0)).toBe("–");
});

test("how long ago, or how soon", () => {
  const now = new Date("2026-06-30T12:00:00Z");
  const at = (minutes: number): string => ago(new Date(now.getTime() - minutes * 60_000), now);
  expect([at(0), at(5), at(120), at(60 * 24 * 3), at(-90), at(-60 * 50)]).toEqual([
    "just now",
    "5 min ago",
    "2 h ago",
    "3 days ago",
    "in 2 h",
    "in 2 days",
  ]);
});
