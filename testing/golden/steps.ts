import { differences } from "./differences";
import type { GoldenEngine, TextRows } from "./engine";
import { isWriting, readCases, writeCases } from "./kept";

/** One pipeline whose last steps are in question, and the rows that it makes. */
interface StepCase {
  readonly what: string;
  /** Table that the rows come from; the measurements if omitted. It has a key `Nr` and an answer `ja`. */
  readonly from?: string;
  /** Steps as in a pipeline file. */
  readonly steps: readonly unknown[];
  /** Further strands as in a pipeline file. */
  readonly strands?: readonly unknown[];
  /** Columns that are compared; the first ones order the rows. */
  readonly columns: readonly string[];
  /** What the rows are, or why there are none. */
  readonly rows: TextRows | string;
  readonly learned: unknown;
}

/** The pipeline of a case: rows with an even number are trained on, the others scored. */
const fileOf = ({ from = "Mess werte", steps, strands = [] }: StepCase): string =>
  JSON.stringify({
    ravlen: 1,
    name: "steps",
    strands: [
      {
        name: "rows",
        from: { schema: "Ort A", table: from },
        steps: [{ do: "derive", columns: { feature: "1.0", ja2: "ja" } }, ...steps],
      },
      ...strands,
    ],
    roles: { key: ["Nr"], target: { column: "ja2", kind: "binary" } },
    rows: { from: "rows", train: '"Nr" % 2 = 0', score: '"Nr" % 2 = 1' },
    holdout: { share: 0.0001, seed: 3 },
    candidates: [{ name: "c", algorithm: "logistic_regression" }],
  });

/** What rows are ordered by: values cut to what engines agree on, so that noise does not change places. */
const orderKey = (row: TextRows[number]): string =>
  JSON.stringify(
    row.map((value) =>
      value === null || Number.isNaN(Number(value)) ? value : Number(value).toExponential(9),
    ),
  );

const inOrder = (rows: TextRows): TextRows =>
  rows.toSorted((left, right) => {
    const byNumber = Number(left[0]) - Number(right[0]);
    if (byNumber !== 0 && !Number.isNaN(byNumber)) return byNumber;
    return orderKey(left) < orderKey(right) ? -1 : 1;
  });

async function answerOf(engine: GoldenEngine, step: StepCase): Promise<Pick<StepCase, "rows" | "learned">> {
  const answer = await engine.rowsAfter(fileOf(step));
  if (!answer.ok) return { rows: answer.failure, learned: null };
  const { columns, rows, learned } = answer.value;
  const places = step.columns.map((name) => columns.indexOf(name));
  const missing = step.columns.filter((_name, index) => places[index] === -1);
  if (missing.length > 0) throw new Error(`${step.what}: no column ${missing.join(", ")}`);
  return {
    rows: inOrder(rows.map((row) => places.map((place) => row[place] ?? null))),
    learned,
  };
}

/** Every step kind over tables with gaps, ties, odd names and edge values: its rows, and what it learns. */
export function describeSteps(engine: () => GoldenEngine): void {
  for (const [kind, cases] of readCases<StepCase>("steps"))
    describe(`golden answers of ${kind}`, () => {
      if (isWriting) {
        test("are kept", async () => {
          const kept: StepCase[] = [];
          for (const step of cases) kept.push({ ...step, ...(await answerOf(engine(), step)) });
          writeCases("steps", kind, kept);
        });
        return;
      }
      test.each(cases)("$what", async (step) => {
        const { rows, learned } = step;
        expect(differences(await answerOf(engine(), step), { rows, learned })).toEqual([]);
      });
    });
}
