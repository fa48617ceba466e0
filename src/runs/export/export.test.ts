import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { unwrap } from "@/core/problem";
import { checkText } from "../check-file";
import { loadFile } from "../import/load";
import { lookAtFile } from "../import/look-at-file";
import { openStepBench, stepFile, type StepBench } from "../../../testing/step-bench";
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
    expect(look.findings.map((each) => each.source)).toEqual(names);
    const types = [
      "integer",
      "double precision",
      "integer",
      "text",
      "timestamptz",
      "double precision",
      "boolean",
    ] as const;
    const columns = look.choices.columns.map((each, place) => ({
      ...each,
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
  expect(lines[0]).toBe("Nr,Größe (mm),feature,ja2");
  expect(lines).toHaveLength(41);
  expect(lines.every((line) => !line.includes(",,"))).toBe(true);
  await expect(tableSource(warehouse, "no.such")).rejects.toThrow("no table no.such");
});
