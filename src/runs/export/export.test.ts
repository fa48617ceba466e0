import { printRelation } from "@/warehouse/postgres/dialect/relation";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { unwrap } from "@/core/problem";
import { checkText } from "../check-file";
import { loadFile } from "../import/load";
import { lookAtFile } from "../import/look-at-file";
import { openStepBench, SOURCE, stepFile, type StepBench } from "../../../testing/step-bench";
import { TEST_NOW } from "../../../testing/warehouse";
import { exportToFile, type ExportFormat } from "./export-rows";
import { stepSource, tableSource } from "./sources";

let own: StepBench;
let folder: string;
beforeAll(async () => {
  own = await openStepBench();
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-export-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await own.bench.close();
});

test.each(["csv", "jsonl", "parquet"] as const)(
  "a table with gaps, quotes and strange names comes back the same through %s",
  async (format: ExportFormat) => {
    const { warehouse } = own.bench.context;
    const file = path.join(folder, `out.${format}`);
    await exportToFile(warehouse, await tableSource(warehouse, '"Ort A"."Mess werte"'), format, file);
    const look = await lookAtFile(file, `out.${format}`);
    expect(look).toMatchObject({ rows: 40, broken: 0 });
    const names = ["Nr", "Größe (mm)", "stück", "art", "wann?", "leer", "ja"];
    expect(look.findings.map((finding) => finding.source)).toEqual(names);
    const types = [
      "integer",
      "double precision",
      "integer",
      "text",
      "timestamptz",
      "double precision",
      "boolean",
    ] as const;
    const columns = look.choices.columns.map((column, place) => ({
      ...column,
      name: names[place]!,
      type: types[place]!,
      dateOrder: "ymd" as const,
    }));
    await loadFile(
      warehouse,
      file,
      look,
      {
        ...look.choices,
        columns,
        values: { decimal: ".", missing: [""] },
        table: `back_${format}`,
        mode: "new",
        misfits: "stop",
        key: [],
      },
      {
        onProgress: () => undefined,
        signal: new AbortController().signal,
        rejectsFile: path.join(folder, "r"),
      },
    );
    // A CSV file cannot tell an empty text from a missing one.
    const both = (table: string): string =>
      `SELECT "Nr", "Größe (mm)", stück, nullif(art, '') AS art, date_trunc('milliseconds', "wann?") AS w, leer, ja FROM ${table}`;
    expect(
      await own.bench.sql(
        `SELECT count(*)::int AS n FROM ((${both('"Ort A"."Mess werte"')}) EXCEPT (${both(`imported.back_${format}`)})) d`,
      ),
    ).toEqual([{ n: 0 }]);
  },
);

test("a text that a spreadsheet would take for a formula is marked in CSV, unless asked otherwise; a number never is", async () => {
  const { warehouse } = own.bench.context;
  const texts = ["=1+1", "+cmd|' /C calc'!A0", "-2+3", "@SUM(A1)", "\tx", "-12.5", "+4,2", "a=b", "- item"];
  await own.bench.sql(
    `CREATE TABLE "Ort A".formulas AS SELECT row_number() OVER ()::int AS n, t, -1.5 * row_number() OVER () AS below FROM unnest($1::text[]) t`,
    [texts],
  );
  await own.bench.sql('GRANT SELECT ON "Ort A".formulas TO PUBLIC');
  const source = await tableSource(warehouse, '"Ort A"."formulas"');
  const written = async (exact: boolean): Promise<string> => {
    const file = path.join(folder, "formulas.csv");
    await exportToFile(warehouse, { ...source, exact }, "csv", file);
    return readFileSync(file, "utf8");
  };
  const guarded = await written(false);
  for (const text of texts.slice(0, 5)) expect(guarded).toContain(`'${text}`);
  for (const text of texts.slice(5, 8)) expect(guarded).not.toContain(`'${text}`);
  expect(guarded).toContain("'- item");
  expect(guarded).not.toContain("'-1.5");
  expect(await written(true)).not.toMatch(/^\d+,"?'/m);
});

test("the rows after a step are exported with what the step learned; what does not exist is said", async () => {
  const { warehouse } = own.bench.context;
  const plan = unwrap(
    await checkText(
      stepFile(
        '- {do: fill, columns: ["Größe (mm)"], with: mean}\n- {do: keep, columns: [Nr, "Größe (mm)", feature, ja2]}',
      ),
      warehouse,
    ),
  );
  const file = path.join(folder, "step.csv");
  await exportToFile(
    warehouse,
    await stepSource(plan, warehouse, "rows", 3, TEST_NOW.toISOString()),
    "csv",
    file,
  );
  const lines = readFileSync(file, "utf8").trim().split("\n");
  expect(lines[0]).toBe("Nr,Größe (mm),feature,ja2,part");
  expect(lines).toHaveLength(41);
  expect(lines.every((line) => !line.includes(",,"))).toBe(true);
  await expect(tableSource(warehouse, "no.such")).rejects.toThrow("no table no.such");
});

test("after a mean of the answer, training rows leave without their own answer in it, the others as scoring has them", async () => {
  const { warehouse } = own.bench.context;
  const text = stepFile("- {do: target_mean, columns: [stück], smoothing: 2, folds: 4, keep: true}").replace(
    "share: 0.0001",
    "share: 0.3",
  );
  const plan = unwrap(await checkText(text, warehouse));
  const source = await stepSource(plan, warehouse, "rows", 2, TEST_NOW.toISOString());
  expect(source.columns.at(-1)).toEqual({ name: "part", type: "text" });
  const draw = (from: number): string =>
    `('x' || substr(md5('3' || chr(31) || "Nr"::text), ${from}, 8))::bit(32)::bigint / 4294967296.0`;
  // The same by hand: sums over training rows, for training rows without those of their own fold.
  const rows = await own.bench.sql(
    `WITH r AS (SELECT "Nr", stück, ja::int AS y, CASE WHEN "Nr" % 2 = 1 THEN 'not in training' WHEN ${draw(1)} < 0.3 THEN 'holdout' ELSE 'training' END AS part, floor(${draw(9)} * 4)::int AS fold FROM ${SOURCE}),
    t AS (SELECT * FROM r WHERE part = 'training'),
    m AS (SELECT r.*, (SELECT avg(y) FROM t WHERE r.part <> 'training' OR t.fold <> r.fold) AS overall,
      (SELECT count(*) FROM t WHERE t.stück IS NOT DISTINCT FROM r.stück AND (r.part <> 'training' OR t.fold <> r.fold)) AS n,
      (SELECT coalesce(sum(y), 0) FROM t WHERE t.stück IS NOT DISTINCT FROM r.stück AND (r.part <> 'training' OR t.fold <> r.fold)) AS s FROM r)
    SELECT e.part, count(*)::int AS rows, max(abs(e.stück_mean - (m.s + 2 * m.overall) / (m.n + 2)))::float8 AS off, bool_and(e.part = m.part) AS same
    FROM (${printRelation(source.relation, { runTime: TEST_NOW.toISOString() })}) e JOIN m USING ("Nr") GROUP BY e.part ORDER BY e.part`,
  );
  expect(rows.map((row) => [row["part"], row["same"]])).toEqual([
    ["holdout", true],
    ["not in training", true],
    ["training", true],
  ]);
  for (const row of rows) expect(Number(row["off"])).toBeLessThan(1e-12);
});
