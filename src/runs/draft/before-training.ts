import { baseRelation, needsBase } from "@/core/plan/frame";
import { obstaclesOf, type Obstacle } from "@/core/plan/obstacles";
import type { CheckedPlan } from "@/core/plan/plan";
import { readTrainingFacts, trainingFactsRelations } from "@/core/plan/training-facts";
import { rowsQuestion } from "@/core/questions/rows";
import { UNBUILT_BASE, withBase } from "@/core/plan/unbuilt-base";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { learnedUpTo, placeKey } from "./preview";
import { Remembered } from "./remembered";

const known = new Remembered<readonly Obstacle[]>();

/**
 * What a training of the plan would stop at, or leave out, as far as the rows tell before it begins: gaps, classes, constants, texts.
 * Reads today's training rows with all steps done; writes nothing.
 */
export async function beforeTraining(
  plan: CheckedPlan,
  warehouse: Warehouse,
  runTime: string,
): Promise<readonly Obstacle[]> {
  const { main, file } = plan;
  const end = main.steps.length;
  const { roles, rows, holdout, candidates } = file;
  const place = await placeKey(plan, warehouse, { strand: main.name, after: end }, runTime);
  const key = `${place} ${JSON.stringify([roles, rows, holdout, candidates])}`;
  return known.get(key, async () => {
    const learned = await learnedUpTo(plan, warehouse, end, runTime);
    const base = needsBase(plan) ? UNBUILT_BASE : undefined;
    const questions = trainingFactsRelations(plan, learned, { base });
    const answers = await Promise.all(
      questions.map((relation) => {
        const facts = withBase(relation, baseRelation(plan));
        return warehouse.ask(rowsQuestion(facts, "facts of training rows"), { runTime });
      }),
    );
    return obstaclesOf(
      plan,
      readTrainingFacts(
        plan,
        answers.map(([row]) => row ?? {}),
      ),
    );
  });
}
