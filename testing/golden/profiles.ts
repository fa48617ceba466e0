import { asKept, differences } from "./differences";
import type { GoldenEngine, TableQuestion } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";

type ProfileCase = TableQuestion & { readonly table: string; readonly answer: unknown };

/** What is said of tables before a pipeline is built on them: profiles, pairs, what could be a key or a join. */
export function describeProfiles(engine: () => GoldenEngine): void {
  for (const [area, cases] of readCases<ProfileCase>("profiles"))
    describe(`golden answers of ${area}`, () => {
      if (isWriting) {
        test("are kept", async () => {
          const kept: ProfileCase[] = [];
          for (const goldenCase of cases)
            kept.push({ ...goldenCase, answer: await engine().aboutTable(goldenCase.table, goldenCase) });
          writeCases("profiles", area, kept);
        });
        return;
      }
      test.each(cases.map((goldenCase, index) => ({ ...goldenCase, index })))(
        "$index: $kind of $table",
        async (goldenCase) => {
          expect(
            differences(asKept(await engine().aboutTable(goldenCase.table, goldenCase)), goldenCase.answer),
          ).toEqual([]);
        },
      );
    });
}
