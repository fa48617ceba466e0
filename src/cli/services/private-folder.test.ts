import { execFileSync, spawnSync } from "node:child_process";
import { chmodSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { freePort } from "./ports";
import { adminLogin, asAdmin, startPostgres, stopPostgres } from "./postgres";
import { openPrivateFolder } from "./private-folder";

const isRoot = process.getuid?.() === 0;
const umask = process.umask();
const home = mkdtempSync(path.join(tmpdir(), "ravlen-private-"));
afterAll(() => {
  process.umask(umask);
  rmSync(home, { recursive: true, force: true });
});

const rightsOf = (...names: readonly string[]): string =>
  (statSync(path.join(home, ...names)).mode & 0o777).toString(8);
/** Whether somebody else on this computer can read a file. Only root can ask for others. */
const othersRead = (...names: readonly string[]): boolean =>
  spawnSync("setpriv", [
    "--reuid=nobody",
    "--regid=nogroup",
    "--clear-groups",
    "cat",
    path.join(home, ...names),
  ]).status === 0;

test("what an earlier version left readable is closed, and its data are found", async () => {
  // As it was: everything in it readable, and the database below it.
  process.umask(0o022);
  chmodSync(home, 0o755);
  const quiet = (): void => undefined;
  const first = await startPostgres(home, () => freePort(54_700), quiet);
  await asAdmin(adminLogin(home, first.port), "postgres", (client) =>
    client.query("CREATE TABLE kept AS SELECT 17 AS answer"),
  );
  stopPostgres(first.folder);
  mkdirSync(path.join(home, "drops", "desk"), { recursive: true });
  writeFileSync(path.join(home, "drops", "desk", "rows.csv"), "secret");
  writeFileSync(path.join(home, "web.log"), "secret");
  mkdirSync(path.join(home, "temporary"));
  writeFileSync(path.join(home, "temporary", "left.parquet"), "secret");
  if (isRoot) expect(othersRead("drops", "desk", "rows.csv")).toBe(true);

  openPrivateFolder(home);
  expect([rightsOf(), rightsOf("drops"), rightsOf("drops", "desk"), rightsOf("web.log")]).toEqual([
    "711",
    "700",
    "700",
    "600",
  ]);
  expect(rightsOf("drops", "desk", "rows.csv")).toBe("600");
  if (isRoot) expect(othersRead("drops", "desk", "rows.csv")).toBe(false);
  expect(execFileSync("ls", [home], { encoding: "utf8" })).not.toContain("temporary");
  // What is made from now on is closed too.
  writeFileSync(path.join(home, "worker.log"), "secret");
  expect(rightsOf("worker.log")).toBe("600");

  const again = await startPostgres(home, () => freePort(54_700), quiet);
  try {
    const { rows } = await asAdmin(adminLogin(home, again.port), "postgres", (client) =>
      client.query<{ answer: number }>("SELECT answer FROM kept"),
    );
    expect(rows).toEqual([{ answer: 17 }]);
  } finally {
    stopPostgres(again.folder);
  }
});
