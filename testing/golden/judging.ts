import type { Algorithm } from "@/core/learn/algorithms";
import type { Task } from "@/core/learn/task";
import { asKept, differences, OF_ITERATIONS } from "./differences";
import type { GoldenEngine, JudgingQuestion } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";
import { learnerFile } from "./learners";

/** One question about one version; without a question, all that its training kept of its evaluation. */
interface JudgingCase {
  readonly algorithm: Algorithm;
  readonly target: Task["kind"];
  readonly question?: JudgingQuestion;
  readonly answer: unknown;
}

async function answerOf(
  engine: GoldenEngine,
  { algorithm, target, question }: JudgingCase,
): Promise<unknown> {
  const file = learnerFile(algorithm, target, "warehouse");
  if (question) return engine.aboutVersion(file, question);
  const trained = await engine.train(file);
  return trained.ok ? trained.value.judgement : trained.failure;
}

/** Metrics, intervals, findings of the guard, importance, segments, rows, reasons and comparisons. */
export function describeJudging(engine: () => GoldenEngine): void {
  for (const [area, cases] of readCases<JudgingCase>("judging"))
    describe(`golden answers of judging ${area}`, () => {
      if (isWriting) {
        test("are kept", async () => {
          const kept: JudgingCase[] = [];
          for (const goldenCase of cases)
            kept.push({ ...goldenCase, answer: await answerOf(engine(), goldenCase) });
          writeCases("judging", area, kept);
        });
        return;
      }
      test.each(
        cases.map((goldenCase, index) => ({
          ...goldenCase,
          index,
          kind: goldenCase.question?.kind ?? "evaluation",
        })),
      )("$index: $kind of $algorithm", async (goldenCase) => {
        expect(
          differences(asKept(await answerOf(engine(), goldenCase)), goldenCase.answer, OF_ITERATIONS),
        ).toEqual([]);
      });
    });
}
