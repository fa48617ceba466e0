import { formatShare } from "../format/numbers";
import { z } from "zod";
import { binary, column, double } from "../expression/ast";
import { digestOf, fractionOf } from "../expression/digest";
import { filter } from "../relation/relation";
import { columnNames, existing } from "./shared";
import { defineStep, listNames, stepCommon, type StepKind } from "./step";

/** Keeps a share of the rows by a hash of their key: the same rows every time, whatever others there are. */
export const sampleStep: StepKind = defineStep({
  kind: "sample",
  title: "Sample rows",
  help: {
    about: "Keeps a share of the rows, chosen by hash: the same rows every time.",
    words: ["subset", "downsample", "random", "share"],
    missing: "A missing value is hashed as an empty text.",
    example: "by: [parcel_id]\nshare: 0.1",
  },
  settings: z.strictObject({
    do: z.literal("sample"),
    ...stepCommon,
    by: columnNames.describe("Columns to hash. Rows with equal values are kept or dropped together."),
    share: z.number().gt(0).max(1).describe("Share of distinct values to keep, from 0 to 1."),
    seed: z.union([z.int(), z.string()]).default(1).describe("Another seed gives another sample."),
  }),
  sentence: (settings) => `${formatShare(settings.share)} of rows by ${listNames(settings.by)}`,
  check: (settings, context) => ({
    output: context.input,
    reads: existing(context, settings.by, ["by"]).map((column) => column.name),
    writes: [],
    drops: [],
  }),
  // The prefix keeps the sample independent of the holdout, which hashes the key with its own seed.
  apply: (settings, input) =>
    filter(
      input,
      binary(
        fractionOf(
          digestOf(
            `sample ${settings.seed}`,
            settings.by.map((name) => column(name)),
          ),
          1,
        ),
        "<",
        double(settings.share),
      ),
    ),
});
