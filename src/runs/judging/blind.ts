import { problem, ProblemError } from "@/core/problem";
import { recordBlindLook } from "@/store/models";
import type { Context } from "../context";
import { readScores } from "../training/scored-rows";
import { figuresOf } from "../threads/figures";
import { figureIntervals } from "../threads/intervals";
import { openJudged } from "./judged-table";

/** Opens the blind part of a version, once: what it shows is recorded with the moment, and stays. */
export async function openBlindPart(context: Context, id: number): Promise<void> {
  const judged = await openJudged(context, id);
  const { blindTable } = judged.model.data;
  if (blindTable === undefined)
    throw new ProblemError(
      problem(
        "no_blind_part",
        "This version was trained without a blind holdout.",
        "Add holdout.blind to the file and retrain.",
      ),
    );
  if (judged.model.blind) return;
  const session = await context.warehouse.session();
  try {
    const table = { schema: context.warehouse.config.scratchSchema, table: blindTable };
    const stored = await session.tableNames(table.schema, "check that the blind holdout is stored");
    if (!stored.includes(blindTable))
      throw new ProblemError(
        problem(
          "blind_gone",
          "The scored blind holdout of this version is no longer stored.",
          "Retrain to create a new one.",
        ),
      );
    const scored = await readScores(session, table, judged.task, judged);
    if (scored.answers.length === 0)
      throw new ProblemError(
        problem(
          "empty_blind_part",
          "The blind holdout has no rows with a target.",
          "Enlarge it, and retrain.",
        ),
      );
    await recordBlindLook(context.store.db, id, {
      openedAt: (await context.now()).toISOString(),
      rows: scored.answers.length,
      figures: await figuresOf(judged.task.kind, scored),
      intervals: (
        await figureIntervals({ kind: judged.task.kind, scored: [scored], seed: 1, groups: scored.groups })
      ).intervals,
    });
  } finally {
    session.release();
  }
}
