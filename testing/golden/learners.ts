import { ALGORITHM_NAMES, factsOf, type Algorithm } from "@/core/learn/algorithms";
import type { Engine, Task } from "@/core/learn/task";
import { asKept, differences, OF_ITERATIONS } from "./differences";
import type { GoldenEngine, Training } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";

/** One learner on one kind of target in one place, and what it makes of the rows. */
interface LearnerCase {
  readonly target: Task["kind"];
  readonly place: Engine;
  readonly answer: Pick<Training, "model" | "predictions"> | string;
}

const TARGETS: Readonly<Record<Task["kind"], string>> = { binary: "yes", number: "amount", classes: "group" };

/** Few trees and rounds, so that what is kept can be read. */
const SETTINGS: Partial<Record<Algorithm, object>> = {
  linear_regression: { missing: "mean" },
  logistic_regression: { missing: "mean", ridge: 0.001, balance: true },
  support_vector: { missing: "mean" },
  decision_tree: { depth: 4 },
  random_forest: { trees: 3, depth: 4 },
  boosted_trees: { trees: 4, depth: 3, rows_share: 0.8, columns_share: 0.7, stop_after: 3 },
  nearest_neighbours: { k: 5, most_rows: 60, weighting: "distance" },
  neural_network: { hidden: [3, 2], epochs: 4 },
};

/** A pipeline over rows with weights, gaps in a number and a category, and a category that only the holdout has. */
export const learnerFile = (algorithm: Algorithm, target: Task["kind"], engine: Engine): string =>
  JSON.stringify({
    ravlen: 1,
    name: `${algorithm}-${target}`.replaceAll("_", "-"),
    strands: [
      {
        name: "rows",
        from: { schema: "Ort A", table: "trees" },
        steps: [
          {
            do: "drop",
            columns: Object.entries(TARGETS)
              .filter(([kind]) => kind !== target)
              .map(([, column]) => column),
          },
        ],
      },
    ],
    roles: { key: ["id"], target: { column: TARGETS[target], kind: target }, weight: "times", time: "seen" },
    rows: { from: "rows", train: "true", score: "true" },
    holdout: { by: "time", from: "2026-04-01" },
    candidates: [
      { name: "only", algorithm, engine, settings: SETTINGS[algorithm] ?? {} },
      { name: "base", algorithm: "base_rate" },
    ],
  });

/** Every learner in every place that it has, on every kind of target: its model and its predictions. */
export function describeLearners(engine: () => GoldenEngine): void {
  const kept = readCases<LearnerCase>("learners");
  for (const algorithm of ALGORITHM_NAMES)
    describe(`golden answers of ${algorithm}`, () => {
      const combinations = factsOf(algorithm).targets.flatMap((target) =>
        factsOf(algorithm).engines.map((place) => ({ target, place })),
      );
      const answerOf = async ({
        target,
        place,
      }: (typeof combinations)[number]): Promise<LearnerCase["answer"]> => {
        const answer = await engine().train(learnerFile(algorithm, target, place));
        if (!answer.ok) return answer.failure;
        const { model, predictions } = answer.value;
        return { model, predictions };
      };
      if (isWriting) {
        test("are kept", async () => {
          const cases: LearnerCase[] = [];
          for (const combination of combinations)
            cases.push({ ...combination, answer: await answerOf(combination) });
          writeCases("learners", algorithm, cases);
        });
        return;
      }
      test.each(combinations)("$target, $place", async (combination) => {
        const found = kept
          .get(algorithm)
          ?.find(({ target, place }) => target === combination.target && place === combination.place);
        expect(differences(asKept(await answerOf(combination)), found?.answer, OF_ITERATIONS)).toEqual([]);
      });
    });
}
