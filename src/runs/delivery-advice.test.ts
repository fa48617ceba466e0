import { describeProblem } from "@/core/problem";
import { labFile, labTable, type LabFileOptions } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";

/** What a scoring run advises that failed, followed: whoever does it has rows. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

interface Remedy {
  /** The file that is saved. */
  readonly file?: LabFileOptions;
  /** What is done to the tables. */
  readonly sql?: string;
  readonly train?: boolean;
  /** Whether the statement is run that the advice itself gives. */
  readonly advised?: boolean;
}

const delivery = (more: string, table = "predictions.TABLE"): LabFileOptions => ({
  delivery: `{name: desk, table: ${table}, ${more}}`,
});
const ELSEWHERE: Remedy = { file: delivery("mode: upsert", "predictions.TABLE_elsewhere") };
const UNSEEN = "UPDATE lab.TABLE SET cat = 'larch' WHERE answer IS NULL AND id % 4 = 0";
const GAPS = "UPDATE lab.TABLE SET x2 = NULL WHERE answer IS NULL AND id % 2 = 0";
const FAR = "UPDATE lab.TABLE SET x1 = 1000 WHERE answer IS NULL AND id % 2 = 0";
const KEYLESS = "ALTER TABLE lab.TABLE DROP CONSTRAINT TABLE_pkey";

const CASES: readonly (readonly [
  advice: string,
  wrong: { readonly sql?: string; readonly file?: LabFileOptions },
  ...rights: Remedy[],
])[] = [
  ["or raise contract.most_unseen", { sql: UNSEEN }, { file: delivery("contract: {most_unseen: 0.5}") }],
  [
    "or raise contract.most_missing_increase",
    { sql: GAPS },
    { file: delivery("contract: {most_missing_increase: 0.6}") },
  ],
  [
    "or raise contract.most_outside",
    { sql: FAR, file: delivery("contract: {most_outside: 0.1}") },
    { file: delivery("contract: {most_outside: 0.6}") },
  ],
  [
    "or lower contract.least_rows",
    { file: delivery("contract: {least_rows: 500}") },
    { file: delivery("contract: {least_rows: 100}") },
  ],
  [
    "or raise contract.most_rows",
    { file: delivery("contract: {most_rows: 100}") },
    { file: delivery("contract: {most_rows: 500}") },
  ],
  [
    "retrain, or set contract.all_unseen to warn",
    { sql: "UPDATE lab.TABLE SET cat = 'larch' WHERE answer IS NULL" },
    { file: delivery("contract: {all_unseen: warn, otherwise: warn}") },
  ],
  [
    "Change it back, or retrain",
    { sql: "ALTER TABLE lab.TABLE ALTER x1 TYPE real" },
    { sql: "ALTER TABLE lab.TABLE ALTER x1 TYPE double precision" },
    { sql: "ALTER TABLE lab.TABLE ALTER x1 TYPE real", train: true },
  ],
  [
    "Restore it, or change the pipeline and retrain",
    { sql: "ALTER TABLE lab.TABLE RENAME x2 TO gone" },
    { sql: "ALTER TABLE lab.TABLE RENAME gone TO x2" },
  ],
  [
    "Add a fill step and retrain, or set contract.unanswered to leave_out",
    { sql: "UPDATE lab.TABLE SET x1 = NULL WHERE id = 15" },
    { file: { steps: "- {do: fill, columns: [x1], with: median}" }, train: true },
    { file: delivery("contract: {unanswered: leave_out}") },
  ],
  [
    "Filter them, or choose a key that is never missing",
    {
      sql: `${KEYLESS}; ALTER TABLE lab.TABLE ALTER id DROP NOT NULL; UPDATE lab.TABLE SET id = NULL WHERE id = 15`,
    },
    { file: { steps: "- {do: filter, where: id is not null}" }, train: true },
  ],
  [
    "Remove duplicates in an earlier step, or choose a unique key",
    { sql: `${KEYLESS}; INSERT INTO lab.TABLE SELECT * FROM lab.TABLE WHERE id = 15` },
    { sql: "DELETE FROM lab.TABLE a USING lab.TABLE b WHERE a.id = b.id AND a.ctid > b.ctid" },
  ],
  [
    "or deliver into another table",
    {
      sql: "ALTER TABLE predictions.TABLE ALTER probability TYPE text; ALTER TABLE predictions.TABLE DROP COLUMN scored_at",
    },
    ELSEWHERE,
    { file: delivery("mode: upsert"), advised: true },
  ],
  [
    "or use mode: append, or deliver into another table",
    { sql: "ALTER TABLE predictions.TABLE DROP CONSTRAINT TABLE_pkey" },
    ELSEWHERE,
    { file: delivery("mode: append") },
  ],
  [
    'ADD UNIQUE ("id"); or use mode: append',
    { sql: "ALTER TABLE predictions.TABLE DROP CONSTRAINT TABLE_pkey" },
    { advised: true },
  ],
  [
    'ADD UNIQUE ("id"); or use mode: append',
    {
      sql: "ALTER TABLE predictions.TABLE DROP CONSTRAINT TABLE_pkey; ALTER TABLE predictions.TABLE ADD UNIQUE (id) DEFERRABLE",
    },
    { advised: true },
  ],
  [
    'ALTER COLUMN "note" DROP NOT NULL; or deliver into another table',
    { sql: "TRUNCATE predictions.TABLE; ALTER TABLE predictions.TABLE ADD note text NOT NULL" },
    { advised: true },
  ],
  [
    "Make it a plain column, or deliver into another table",
    {
      sql: "ALTER TABLE predictions.TABLE DROP probability; ALTER TABLE predictions.TABLE ADD probability double precision GENERATED ALWAYS AS (0.5) STORED",
    },
    ELSEWHERE,
    {
      file: delivery("mode: upsert"),
      sql: "ALTER TABLE predictions.TABLE ALTER probability DROP EXPRESSION",
    },
  ],
  [
    "Remove that constraint, fix the rows in an earlier step, or deliver to another table",
    { sql: "ALTER TABLE predictions.TABLE ADD CONSTRAINT narrow CHECK (id <> 15) NOT VALID" },
    ELSEWHERE,
    {
      file: { steps: "- {do: filter, where: id <> 15}" },
      train: true,
    },
    { file: delivery("mode: upsert"), sql: "ALTER TABLE predictions.TABLE DROP CONSTRAINT narrow" },
  ],
  [
    "Fill it or filter those rows in a step, and retrain; or choose another partition",
    { file: delivery("mode: partition, partition: cat, columns: [cat]", "predictions.TABLE_parts") },
    {
      file: {
        ...delivery("mode: partition, partition: cat, columns: [cat]", "predictions.TABLE_parts"),
        steps: "- {do: fill, columns: [cat], with: {constant: none}}",
      },
      train: true,
    },
    {
      file: delivery("mode: partition, partition: seen, columns: [seen]", "predictions.TABLE_days"),
    },
  ],
  [
    "Use mode: upsert, or deliver into another table",
    { file: delivery("mode: append") },
    { file: delivery("mode: append", "predictions.TABLE_elsewhere") },
    { file: delivery("mode: upsert") },
  ],
];

test.each(CASES.map(([advice], index) => [advice, index] as const))("%s", async (advice, index) => {
  const table = `advised_${index}`;
  const named = (text: string): string => text.replaceAll(/(?<=\.)TABLE|TABLE(?=_pkey)/g, table);
  const [, wrong, ...rights] = CASES[index]!;
  const save = async (file: LabFileOptions): Promise<void> => {
    const options = { name: table, from: `lab.${table}`, ...delivery("mode: upsert"), ...file };
    await bench.save(named(labFile(options)));
  };
  const score = (day: number) =>
    bench.run("score", table, { at: new Date(TEST_NOW.getTime() + day * 86_400_000) });
  await bench.sql(labTable({ table: `lab.${table}` }));
  await save({});
  await bench.train(table);
  expect((await score(0)).state).toBe("done");
  if (wrong.sql !== undefined) await bench.sql(named(wrong.sql));
  if (wrong.file) await save(wrong.file);
  const failed = await score(1);
  expect(failed.problems.map(describeProblem).join("\n")).toContain(advice);
  for (const [way, right] of rights.entries()) {
    if (right.sql !== undefined) await bench.sql(named(right.sql));
    if (right.file) await save(right.file);
    if (right.train) await bench.train(table);
    if (right.advised) {
      const [statement] = failed.problems.flatMap(
        ({ hint }) => /Run (ALTER TABLE .*?); or/.exec(hint ?? "")?.[1] ?? [],
      );
      await bench.sql(statement!);
    }
    const followed = await score(2 + way);
    expect([followed.state, followed.problems.map(describeProblem)]).toEqual(["done", []]);
  }
});
