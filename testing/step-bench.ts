import { checkText } from "@/runs/check-file";
import { stepPreview } from "@/runs/draft/preview";
import { describeProblem, unwrap } from "@/core/problem";
import { openBench, TEST_NOW, type Bench } from "./warehouse";

/**
 * A table with gaps, ties, duplicates, and names and categories that need quoting, for tests of every step kind
 * against an independent statement of the same thing. Training rows are those with an even number.
 */
const TABLE = `CREATE SCHEMA "Ort A";
CREATE TABLE "Ort A"."Mess werte" ("Nr" integer PRIMARY KEY, "Größe (mm)" double precision, stück integer, art text, "wann?" timestamptz, leer double precision, ja boolean NOT NULL);
INSERT INTO "Ort A"."Mess werte"
SELECT i, CASE WHEN i % 5 = 0 THEN NULL ELSE round((i * 7 % 13)::numeric, 1) END, CASE WHEN i % 4 = 1 THEN NULL ELSE i % 3 END,
  (ARRAY['a', 'it''s', 'x"y', '日本', 'B', NULL, 'back\\slash', ''])[1 + i % 8], CASE WHEN i % 7 = 0 THEN NULL ELSE timestamptz '2026-06-01 00:00Z' + i * interval '5 hours' END, NULL, i % 3 = 0
FROM generate_series(1, 40) i;
CREATE TABLE "Ort A".other ("Key" text, part integer, "Wert" numeric);
INSERT INTO "Ort A".other VALUES ('a', 0, 1.5), ('a', 1, 2.5), ('it''s', 1, 3), ('x"y', 0, 4), ('nobody', 2, 5), (NULL, 0, 6);
CREATE TABLE "Ort A".one AS SELECT DISTINCT ON ("Key") * FROM "Ort A".other ORDER BY "Key", part;`;

/** A pipeline over that table with the given steps, as YAML items that begin with "- ". */
export const stepFile = (steps: string, strands = ""): string => `ravlen: 1
name: steps
strands:
  - name: rows
    from: {schema: Ort A, table: Mess werte}
    steps:
      - do: derive
        columns: {feature: 1.0, ja2: ja}
${steps.replaceAll(/^/gm, "      ")}
  - {name: other, from: {schema: Ort A, table: other}}
  - {name: one, from: {schema: Ort A, table: one}}
${strands}
roles: {key: [Nr], target: {column: ja2, kind: binary}}
rows: {from: rows, train: '"Nr" % 2 = 0', score: '"Nr" % 2 = 1'}
holdout: {share: 0.0001, seed: 3}
candidates: [{name: c, algorithm: logistic_regression}]`;

export const SOURCE = `"Ort A"."Mess werte"`;
export const TRAINING = `SELECT * FROM ${SOURCE} WHERE "Nr" % 2 = 0`;

type Rows = readonly (readonly (string | null)[])[];

export interface StepBench {
  readonly bench: Bench;
  /** Rows after the last step of the main strand, as the tray shows them, in the order of the first column. */
  readonly rowsAfter: (
    text: string,
    columns: readonly string[],
  ) => Promise<{ readonly rows: Rows; readonly all: readonly string[]; readonly learned: unknown }>;
  /** The same columns from a statement written by hand. */
  readonly expected: (sql: string, columns: readonly string[]) => Promise<Rows>;
  /** Problems and warnings of a file, a line each. */
  readonly problems: (text: string) => Promise<readonly string[]>;
}

/** Opens a fresh warehouse with that table in it. */
export async function openStepBench(): Promise<StepBench> {
  const bench = await openBench();
  await bench.sql(TABLE);
  const inOrder = (rows: Rows): Rows =>
    [...rows].sort(
      (left, right) =>
        Number(left[0]) - Number(right[0]) || (JSON.stringify(left) < JSON.stringify(right) ? -1 : 1),
    );
  return {
    bench,
    rowsAfter: async (text, columns) => {
      const plan = unwrap(await checkText(text, bench.context.warehouse));
      const { page, learned } = await stepPreview(
        plan,
        bench.context.warehouse,
        "rows",
        plan.main.steps.length,
        TEST_NOW.toISOString(),
      );
      const places = columns.map((name) => page.columns.indexOf(name));
      return {
        rows: inOrder(page.rows.map((row) => places.map((place) => row[place] ?? null))),
        all: page.columns,
        learned,
      };
    },
    expected: async (sql, columns) => {
      const list = columns.map((name) => `"${name.replaceAll('"', '""')}"::text`).join(", ");
      return bench.admin(async (client) => {
        await client.query("SET timezone = 'UTC'");
        return inOrder(
          (
            await client.query<(string | null)[]>({
              text: `SELECT ${list} FROM (${sql}) AS s`,
              rowMode: "array",
            })
          ).rows,
        );
      });
    },
    problems: async (text) => (await bench.problems(text)).map(describeProblem),
  };
}
