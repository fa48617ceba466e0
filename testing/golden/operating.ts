import { asKept, differences, OF_ITERATIONS } from "./differences";
import type { GoldenEngine, Operation } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";

/** A pipeline that is trained, put in service and scored. */
interface OperatingCase {
  readonly name: string;
  readonly file: object;
  /** Run times of the scoring runs, in order. */
  readonly times: readonly string[];
  readonly answer: unknown;
}

/** Where a message has several example rows, any rows may be shown; they are cut off. */
const SEVERAL_EXAMPLES = /, for example [^;]*;.*?(?=\. [A-Z]|\.$)/;

const withoutExamples = (answer: Operation): unknown =>
  JSON.parse(JSON.stringify(answer), (_key, value: unknown) =>
    typeof value === "string" ? value.replace(SEVERAL_EXAMPLES, "") : value,
  );

/** Findings of the guard, requirements of steps, contracts, drift, and predictions against actual values. */
export function describeOperating(engine: () => GoldenEngine): void {
  for (const [area, cases] of readCases<OperatingCase>("operating"))
    describe(`golden answers of ${area}`, () => {
      const answerOf = async ({ file, times }: OperatingCase): Promise<unknown> =>
        withoutExamples(await engine().operate(JSON.stringify(file), times));
      if (isWriting) {
        test("are kept", async () => {
          const kept: OperatingCase[] = [];
          for (const goldenCase of cases) kept.push({ ...goldenCase, answer: await answerOf(goldenCase) });
          writeCases("operating", area, kept);
        });
        return;
      }
      test.each(cases)("$name", async (goldenCase) => {
        expect(differences(asKept(await answerOf(goldenCase)), goldenCase.answer, OF_ITERATIONS)).toEqual([]);
      });
    });
}
