import type { Delivery } from "@/core/pipeline/operating-schema";

export const MODES: Readonly<Record<Delivery["mode"], string>> = {
  upsert: "one row per key, the newest prediction",
  append: "rows added at each run",
  replace: "the table holds the newest run alone",
  partition: "rows of one partition replaced together",
};

/** How a delivery writes, in a few words. */
export const modeWords = (delivery: Delivery): string =>
  delivery.mode === "partition"
    ? `rows with the same ${delivery.partition ?? "partition"} replaced together`
    : MODES[delivery.mode];

/** Which rows a delivery scores. */
export const rowWords = (delivery: Delivery): string =>
  delivery.rows === "all"
    ? "every row that qualifies"
    : delivery.rows === "not_yet_predicted"
      ? "rows not yet predicted"
      : `rows newer by ${delivery.rows.newer_by}`;
