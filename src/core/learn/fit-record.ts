import { z } from "zod";

export const passSchema = z.object({
  pass: z.number(),
  scope: z.enum(["all", "sample", "tree", "epoch"]),
  loss: z.number(),
  validation: z.number().optional(),
  gradientNorm: z.number().optional(),
  step: z.number().optional(),
});

/** What is kept of how a model was fitted, whatever the learner. */
export const fitRecord = z.object({
  rows: z.number(),
  engine: z.enum(["warehouse", "streaming"]).default("warehouse"),
  /** Numbers that came out of the warehouse, sums all of them; 0 when rows were streamed. */
  numbersOut: z.number(),
  passes: z.array(passSchema).default([]),
  sampleRows: z.number().optional(),
  meanLoss: z.number().optional(),
  gradientNorm: z.number().optional(),
  errorsFrom: z.enum(["all rows", "sample"]).optional(),
});
