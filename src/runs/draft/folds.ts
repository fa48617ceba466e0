import { baseRelation, learnRelations, type Fold } from "@/core/plan/frame";
import { foldsOf } from "@/core/plan/split";
import type { LearnedValues } from "@/core/plan/build";
import type { CheckedPlan } from "@/core/plan/plan";
import { rowsQuestion } from "@/core/questions/rows";
import { UNBUILT_BASE, withBase } from "@/core/plan/unbuilt-base";
import type { Warehouse } from "@/warehouse/port/warehouse";

/**
 * What a step of the main strand learns when each fold is left out in turn: everything learned before it is learned
 * again inside the same fold.
 */
export async function learnedByFold(
  plan: CheckedPlan,
  warehouse: Warehouse,
  position: number,
  runTime: string,
): Promise<readonly unknown[]> {
  const { by, count } = foldsOf(plan.file);
  const base = { ...UNBUILT_BASE, folds: true };
  const folds = Array.from({ length: count }, (_, index): Fold =>
    by === "time" ? { fold: index + 1, forward: true } : { fold: index, forward: false },
  );
  return Promise.all(
    folds.map(async (fold) => {
      let learned: LearnedValues = {};
      for (let at = plan.learnsFrom; at <= position; at += 1) {
        const questions = learnRelations(plan, at, learned, base, fold);
        const step = plan.main.steps[at]?.step;
        if (!step || questions.length === 0) continue;
        const answers = await Promise.all(
          questions.map((relation) => {
            const rows = withBase(relation, baseRelation(plan, true));
            return warehouse.ask(rowsQuestion(rows, `what "${step.name}" learns in a fold`), { runTime });
          }),
        );
        learned = { ...learned, [String(at)]: step.learned(answers) };
      }
      return learned[String(position)] ?? null;
    }),
  );
}
