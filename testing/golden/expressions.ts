import { differences } from "./differences";
import type { GoldenEngine } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";

/** One expression over the table of edge values. */
interface ExpressionCase {
  readonly expression: string;
  /** Rows that it is evaluated on; all if omitted. */
  readonly where?: string;
  /** Its value in every row as [row number, value], or why there is none. */
  readonly answer: readonly (readonly (string | null)[])[] | string;
}

const KEY = "Nr";

/** A pipeline that derives one column from the table of edge values. */
const fileOf = ({ expression, where }: ExpressionCase): string =>
  JSON.stringify({
    ravlen: 1,
    name: "expression",
    strands: [
      {
        name: "rows",
        from: { schema: "Ort A", table: "edges" },
        steps: [
          ...(where === undefined ? [] : [{ do: "filter", where }]),
          { do: "derive", columns: { feature: "1.0", value: expression } },
        ],
      },
    ],
    roles: { key: [KEY], target: { column: "ja", kind: "binary" } },
    rows: { from: "rows", train: "true", score: "true" },
    holdout: { share: 0.0001, seed: 3 },
    candidates: [{ name: "c", algorithm: "logistic_regression" }],
  });

async function answerOf(engine: GoldenEngine, goldenCase: ExpressionCase): Promise<ExpressionCase["answer"]> {
  const answer = await engine.rowsAfter(fileOf(goldenCase));
  if (!answer.ok) return answer.failure;
  const { columns, rows } = answer.value;
  const places = [KEY, "value"].map((name) => columns.indexOf(name));
  return rows
    .map((row) => places.map((place) => row[place] ?? null))
    .toSorted((left, right) => Number(left[0]) - Number(right[0]));
}

/** Values of expressions, row by row: NaN, ties of rounding, texts, and times around clock changes. */
export function describeExpressions(engine: () => GoldenEngine): void {
  for (const [area, cases] of readCases<ExpressionCase>("expressions"))
    describe(`golden answers of ${area}`, () => {
      if (isWriting) {
        test("are kept", async () => {
          const kept: ExpressionCase[] = [];
          for (const goldenCase of cases)
            kept.push({ ...goldenCase, answer: await answerOf(engine(), goldenCase) });
          writeCases("expressions", area, kept);
        });
        return;
      }
      test.each(cases)("$expression where $where", async (goldenCase) => {
        expect(differences(await answerOf(engine(), goldenCase), goldenCase.answer)).toEqual([]);
      });
    });
}
