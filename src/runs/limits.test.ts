import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { keepUpload } from "@/server/upload";
import { addImport } from "@/store/imports";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { uploadsFolder } from "./import/job";
import { sweepUploads } from "./import/sweep";

let bench: Bench;
const home = mkdtempSync(path.join(tmpdir(), "ravlen-limits-"));
beforeAll(async () => {
  process.env["RAVLEN_HOME"] = home;
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(async () => {
  delete process.env["RAVLEN_HOME"];
  rmSync(home, { recursive: true, force: true });
  await bench.close();
});

test("a statement that takes too long is ended, and the run says so and leaves nothing", async () => {
  await bench.sql("CREATE VIEW lab.slow AS SELECT r.*, pg_sleep(0.05)::text AS waited FROM lab.rows r");
  await bench.save(labFile({ name: "slow", from: "lab.slow" }));
  process.env["RAVLEN_STATEMENT_MINUTES"] = "0.02";
  try {
    const run = await bench.run("train", "slow");
    expect(run.state).toBe("failed");
    expect(run.problems[0]).toMatchObject({
      code: "statement_timeout",
      message: "A statement took longer than 0.02 minutes and was cancelled.",
    });
    expect(await bench.sql("SELECT tablename FROM pg_tables WHERE schemaname = 'scratch'")).toEqual([]);
  } finally {
    delete process.env["RAVLEN_STATEMENT_MINUTES"];
  }
});

test("an upload is kept as it came; one that is too large is refused, and nothing of it stays", async () => {
  const request = (bytes: number): Request =>
    new Request("http://127.0.0.1/", {
      method: "POST",
      body: new Blob(["x".repeat(bytes)]).stream(),
      duplex: "half",
    } as RequestInit);
  const file = path.join(uploadsFolder(), "one");
  expect(await keepUpload(request(300_000), file)).toBe(300_000);
  expect(readFileSync(file)).toHaveLength(300_000);
  process.env["RAVLEN_UPLOAD_MB"] = "1";
  try {
    const large = path.join(uploadsFolder(), "two");
    await expect(keepUpload(request(3_000_000), large)).rejects.toMatchObject({
      problems: [{ code: "upload_too_large" }],
    });
    expect(existsSync(large)).toBe(false);
  } finally {
    delete process.env["RAVLEN_UPLOAD_MB"];
  }
});

test("uploads that nobody loaded go after a day, lists of rejected rows when records go, and what is worked on stays", async () => {
  mkdirSync(uploadsFolder(), { recursive: true });
  const old = (name: string, days: number): string => {
    const file = path.join(uploadsFolder(), name);
    writeFileSync(file, "x");
    const then = new Date(Date.now() - days * 86_400_000);
    utimesSync(file, then, then);
    return file;
  };
  const id = "6e5cf0b0-27c4-4f62-9d0c-6fb4c8f3a001";
  await addImport(bench.context.store.db, { id, name: "rows.csv", path: old(id, 3), bytes: 1 });
  const [fresh, left, listed, gone] = [
    old("fresh", 0.5),
    old("left", 1.5),
    old("a.rejects.csv", 20),
    old("b.rejects.csv", 40),
  ];
  expect(await sweepUploads(bench.context, 30)).toBe(2);
  expect([path.join(uploadsFolder(), id), fresh, left, listed, gone].map((file) => existsSync(file))).toEqual(
    [true, true, false, true, false],
  );
});
