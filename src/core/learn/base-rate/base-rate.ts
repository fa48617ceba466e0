import { z } from "zod";
import { failure, problem, success, type Result } from "../../problem";
import { checkTarget } from "../linear/diagnose";
import type { Fitted } from "../fitting";
import { fitRecord } from "../fit-record";
import type { FrameQuestions } from "../questions";
import type { BaseRateSettings } from "./facts";
import { classCount, className } from "../task";

/** The same prediction for every row: what any other model has to beat. */
export const baseRateModelSchema = z.object({
  algorithm: z.literal("base_rate"),
  /** The prediction: probability of yes, a number, or a probability for each class. */
  outputs: z.array(z.number()),
  /** Where it comes from, in words. */
  says: z.string(),
  fit: fitRecord,
});
export type BaseRateModel = z.infer<typeof baseRateModelSchema>;

/** A model that reads nothing and says nothing, where only the form of predictions is asked for. */
export const blankModel = (outputs: number): BaseRateModel => ({
  algorithm: "base_rate",
  outputs: new Array<number>(outputs).fill(0),
  says: "",
  fit: { rows: 0, engine: "warehouse", numbersOut: 0, passes: [] },
});

/** Predicts the mean, the median, the most frequent class or the latest value of the training rows. Problems: target_missing, no_time. */
export async function fitBaseRate(
  ask: FrameQuestions,
  settings: BaseRateSettings,
): Promise<Result<Fitted<BaseRateModel>>> {
  const summary = await ask.summary();
  const found = checkTarget(summary);
  if (found.length > 0) return failure(...found);
  const { task } = ask;
  const made = (outputs: readonly number[], says: string): Result<Fitted<BaseRateModel>> =>
    success({
      warnings: [],
      model: {
        algorithm: "base_rate",
        outputs: [...outputs],
        says,
        fit: { rows: summary.rows, engine: ask.engine, numbersOut: ask.numbersOut(), passes: [] },
      },
    });
  const oneClass = (code: number): readonly number[] =>
    task.kind === "binary"
      ? [code]
      : Array.from({ length: classCount(task) }, (_, index) => (index === code ? 1 : 0));
  if (settings.predict === "last") {
    const latest = await ask.latestTarget();
    if (latest === undefined)
      return failure(
        problem("no_time", "The last value needs a time column.", "Add roles.time, or predict the mean."),
      );
    return task.kind === "number"
      ? made([latest], "the latest value of the training rows")
      : made(oneClass(Math.round(latest)), "the class of the latest training row");
  }
  if (task.kind === "number")
    return settings.predict === "median"
      ? made([await ask.targetMedian()], "the median of the training rows")
      : made([summary.target.mean], "the mean of the training rows");
  if (settings.predict === "most_frequent") {
    const code = summary.classes.reduce(
      (most, oneClass, index) => (oneClass.weight > summary.classes[most]!.weight ? index : most),
      0,
    );
    return made(oneClass(code), `the most frequent class, ${className(task, code)}`);
  }
  if (settings.predict === "median")
    return failure(
      problem(
        "not_for_target",
        "A median is for numbers.",
        "Predict mean (the shares of the classes) or most_frequent.",
      ),
    );
  const shares = summary.classes.map((oneClass) => oneClass.weight / summary.weight);
  return made(
    task.kind === "binary" ? [shares[1]!] : shares,
    "the shares of the classes in the training rows",
  );
}
