import { ago, moment } from "./format";

test("times say their zone", () => {
  expect(moment(new Date("2026-06-30T21:40:59Z"))).toBe("2026-06-30 21:40 UTC");
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
