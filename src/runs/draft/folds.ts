import { baseRelation, learnRelations } from "@/core/plan/frame";
import type { LearnedValues } from "@/core/plan/build";
import type { CheckedPlan } from "@/core/plan/plan";
import { printRelation } from "@/core/relation/print";
import type { Warehouse } from "@/warehouse/warehouse";
import { withBase } from "./preview";

/** How many folds are looked at when the file does not say. */
const FOLDS = 5;

/**
 * What a step of the main strand learns when each fold is left out in turn: everything learned before it is learned
 * again inside the same fold.
 */
export async function learnedByFold(plan: CheckedPlan, warehouse: Warehouse, position: number, runTime: string): Promise<readonly unknown[]> {
  const of = plan.file.folds?.count ?? FOLDS;
  const base = { schema: "preview", table: "base" };
  return Promise.all(Array.from({ length: of }, async (_, fold) => {
    let learned: LearnedValues = {};
    for (let at = plan.learnsFrom; at <= position; at += 1) {
      const questions = learnRelations(plan, at, learned, base, { fold, of });
      const step = plan.main.steps[at]?.step;
      if (!step || questions.length === 0) continue;
      const answers = await Promise.all(questions.map((each) => warehouse.read(printRelation(withBase(each, baseRelation(plan)), { runTime }))));
      learned = { ...learned, [String(at)]: step.learned(answers) };
    }
    return learned[String(position)] ?? null;
  }));
}
