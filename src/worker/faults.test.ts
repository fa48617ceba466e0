import { labFile, labTable } from "../../testing/lab";
import { randomUUID } from "node:crypto";
import { writeFileSync } from "node:fs";
import path from "node:path";
import { TestInstallation, until } from "../../testing/installation";
import { packWorkbook } from "../../testing/workbook";
import { KeptChild } from "@/cli/services/children";
import { sendImport } from "@/runs/queue";
import { addImport, importById } from "@/store/imports";

let place: TestInstallation;
beforeAll(async () => {
  place = await TestInstallation.open();
  await place.sql(labTable());
  await place.save(labFile());
});
afterAll(() => place.close());

/** Makes every row that is written into the prediction table take its time, so that there is a middle to be killed in. */
const SLOW = `CREATE OR REPLACE FUNCTION public.slowly() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN PERFORM pg_sleep(0.01); RETURN NEW; END';
CREATE TRIGGER slowly BEFORE INSERT ON predictions.lab FOR EACH ROW EXECUTE FUNCTION public.slowly()`;

async function expectOnce(runId: string, rows: number): Promise<void> {
  expect(
    await place.sql("SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys FROM predictions.lab"),
  ).toEqual([{ rows, keys: rows }]);
  expect(
    await place.sql(`SELECT count(*)::int AS rows FROM predictions.lab WHERE run_id = '${runId}'`),
  ).toEqual([{ rows }]);
  expect(
    await place.sql(`SELECT rows::int FROM predictions.ravlen_ledger WHERE run_id = '${runId}'`),
  ).toEqual([{ rows }]);
  expect(await place.leftovers()).toEqual([]);
}

test("a worker killed while it writes: the next one finishes the run, and each key is there once", async () => {
  const first = await place.startWorker();
  expect((await place.ended(await place.order("train", "2026-06-30T12:00:00Z"))).state).toBe("done");
  await place.serveNewest();
  const before = await place.order("score", "2026-06-30T12:00:00Z");
  expect((await place.ended(before)).state).toBe("done");
  await place.sql(SLOW);
  const run = await place.order("score", "2026-07-01T12:00:00Z");
  await place.atStep(run, "move them into the prediction table");
  await place.kill(first);
  // Nobody sees half of it: all rows are still yesterday's.
  await expectOnceBefore(before);
  await place.lapse();
  await place.startWorker();
  const finished = await place.ended(run);
  expect(finished).toMatchObject({ state: "done", rows: 400, attempt: 2 });
  await expectOnce(run, 400);
});

async function expectOnceBefore(run: string): Promise<void> {
  expect(
    await place.sql(`SELECT count(*)::int AS rows FROM predictions.lab WHERE run_id = '${run}'`),
  ).toEqual([{ rows: 400 }]);
}

test("PostgreSQL restarted while a run writes: the run is taken up again and ends well", async () => {
  const run = await place.order("score", "2026-07-02T12:00:00Z");
  await place.atStep(run, "move them into the prediction table");
  await place.restartPostgres();
  await place.lapse();
  expect(await place.ended(run)).toMatchObject({ state: "done", rows: 400 });
  await expectOnce(run, 400);
});

test("two workers on one queue do each run once", async () => {
  await place.sql("DROP TRIGGER slowly ON predictions.lab");
  await place.startWorker();
  const runs = await Promise.all(
    Array.from({ length: 6 }, (_, index) => place.order("score", `2026-07-0${index + 3}T12:00:00Z`)),
  );
  for (const run of runs) expect(await place.ended(run)).toMatchObject({ state: "done", attempt: 1 });
  expect(await place.sql("SELECT count(*)::int AS n FROM predictions.ravlen_ledger")).toEqual([{ n: 9 }]);
});

test("a file that needs more memory than an import may have ends the process that reads it, and the next one says why and goes on", async () => {
  const { db } = place.context.store;
  const added = async (name: string, content: Buffer | string): Promise<string> => {
    const file = path.join(place.home, name);
    writeFileSync(file, content);
    const { id } = await addImport(db, { id: randomUUID(), name, path: file, bytes: content.length });
    await sendImport(place.boss, id);
    return id;
  };
  const texts = `<si><t>${"x".repeat(1_000_000)}</t></si>`.repeat(90);
  const large = await added("large.xlsx", await packWorkbook(["<sheetData/>"], texts));
  const importer = new KeptChild({
    name: "imports",
    script: "src/worker/imports.ts",
    home: place.home,
    env: { RAVLEN_HOME: place.home, RAVLEN_LOG: "silent", RAVLEN_IMPORT_MB: "100" },
    megabytes: 100,
    say: () => undefined,
  });
  await importer.start();
  try {
    const ended = (id: string) =>
      until("the end of an import", async () => {
        const found = await importById(db, id);
        return found && found.state !== "looking" && found;
      });
    expect(await ended(large)).toMatchObject({ state: "failed", problems: [{ code: "import_memory" }] });
    expect(await ended(await added("small.csv", "code,weight\na,1\n"))).toMatchObject({ state: "looked" });
  } finally {
    await importer.stop();
  }
});
