"use server";
import { revalidatePath } from "next/cache";
import { z } from "zod";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { openBlindPart } from "@/runs/judging/blind";
import { explainAll, type Measured } from "@/runs/judging/importance";
import { orderRun } from "@/runs/queue";
import { modelById, remarkModel } from "@/store/models";
import type { Outcome } from "./actions";
import { appContext, appQueue } from "./context";

const trialSchema = z.object({
  pipeline: z.string(),
  candidate: z.string().optional(),
  without: z.array(z.string()).optional(),
  share: z.number().gt(0).max(1).optional(),
});

/** Orders one trial: a candidate, without some features, or on a share of the rows. */
export async function startTrial(input: z.infer<typeof trialSchema>): Promise<Outcome<string>> {
  try {
    const { pipeline, candidate, without, share } = trialSchema.parse(input);
    const options = {
      ...(candidate ? { candidate } : {}),
      ...(without && without.length > 0 ? { without } : {}),
      ...(share !== undefined && share < 1 ? { share } : {}),
    };
    const ordered = await orderRun(await appContext(), await appQueue(), {
      kind: "train",
      pipeline,
      cause: "hand",
      options,
    });
    revalidatePath("/", "layout");
    return ordered.ok ? { ok: true, value: ordered.value.id } : ordered;
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

const remarkInput = z.object({
  model: z.number().int(),
  note: z.string().max(2000).nullable().optional(),
  starred: z.boolean().optional(),
});

/** Writes a note on a version, or marks it with a star. */
export async function remark(input: z.infer<typeof remarkInput>): Promise<Outcome> {
  try {
    const { model, note, starred } = remarkInput.parse(input);
    const { store } = await appContext();
    if (!(await modelById(store.db, model)))
      return { ok: false, problems: [problem("unknown_model", "There is no such model version.")] };
    await remarkModel(store.db, model, {
      ...(note === undefined ? {} : { note: note === "" ? null : note }),
      ...(starred === undefined ? {} : { starred }),
    });
    revalidatePath("/", "layout");
    return { ok: true, value: undefined };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

/** Opens the blind part of a version: deliberately, once, on record. */
export async function openBlind(model: number): Promise<Outcome> {
  try {
    await openBlindPart(await appContext(), z.number().int().parse(model));
    revalidatePath("/", "layout");
    return { ok: true, value: undefined };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

/** How long a page waits for all importances, in seconds; the command line can be told to take longer. */
const MEASURE_SECONDS = 120;

/** Measures importance of every feature that a version reads, as far as two minutes go, and keeps it with the version. */
export async function measureAllFeatures(model: number): Promise<Outcome<Measured>> {
  try {
    const measured = await explainAll(await appContext(), z.number().int().parse(model), MEASURE_SECONDS);
    revalidatePath("/", "layout");
    return { ok: true, value: measured };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}
