import type { Delivery } from "@/core/pipeline/operating-schema";

export const MODES: Readonly<Record<Delivery["mode"], string>> = {
  upsert: "one row per key, the newest",
  append: "rows appended at each run",
  replace: "replaced at each run",
  partition: "partitions replaced",
};

/** What a delivery's tables hold. */
export const OF_WORDS: Readonly<Record<Delivery["of"], string>> = {
  predictions: "predictions of the version in service",
  features: "features, for other uses",
};

/** How a delivery writes, in a few words. */
export const modeWords = (delivery: Delivery): string =>
  delivery.mode === "partition"
    ? `rows with the same ${delivery.partition ?? "partition"} replaced together`
    : MODES[delivery.mode];

/** Which rows a delivery scores. */
export const rowWords = (delivery: Delivery): string =>
  typeof delivery.rows === "object"
    ? `rows newer by ${delivery.rows.newer_by}`
    : ROWS[delivery.of][delivery.rows];

/** Which rows are taken, in the words of what is delivered. */
export const ROWS: Readonly<Record<Delivery["of"], Readonly<Record<"all" | "not_yet_predicted", string>>>> = {
  predictions: { all: "all rows to score", not_yet_predicted: "rows without a prediction" },
  features: {
    all: "all rows for training, evaluation or scoring",
    not_yet_predicted: "rows not in the table yet",
  },
};
