import { outputsOf } from "@/core/learn/task";
import { recordExplanation } from "@/store/models";
import type { Context } from "../context";
import { explainedRows, explainQuestion, judgedExplanation } from "../training/explained-rows";
import { UNWATCHED } from "../pace";
import { explainInTime } from "../threads/explaining";
import { openJudged } from "./judged-table";

/** Points of dependences that are kept with a version at the most, over all its columns and outputs. */
const [MOST_POINTS, POINTS] = [60_000, 20];

/** How many features were measured, of how many that the model reads. */
export interface Measured {
  readonly measured: number;
  readonly all: number;
}

/**
 * Measures importance of, and dependence on, every feature that a version reads, as far as the time goes, and keeps what was found
 * with the version. Problems: unknown_model, holdout_gone.
 */
export async function explainAll(context: Context, id: number, seconds: number): Promise<Measured> {
  const judged = await openJudged(context, id);
  const { model, task, key } = judged;
  const session = await context.warehouse.session();
  try {
    const explained = await explainedRows(session, judged, key, model.model);
    const question = explainQuestion(model.model, task, explained, {
      importances: Infinity,
      dependences: Math.floor(MOST_POINTS / (POINTS * outputsOf(task))),
    });
    const found = judgedExplanation(question, await explainInTime({ question, seconds }, UNWATCHED));
    const before = model.judgement?.importance.length ?? 0;
    const training = model.data.holdoutTable === undefined ? { training: true } : {};
    if (found.importance.length > before)
      await recordExplanation(context.store.db, id, {
        ...found,
        importanceOf: { ...found.importanceOf, ...training },
      });
    return { measured: Math.max(before, found.importance.length), all: found.importanceOf.columns ?? 0 };
  } finally {
    session.release();
  }
}
