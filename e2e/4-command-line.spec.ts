import { expect, test } from "@playwright/test";
import { execFile } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import path from "node:path";

/** Runs the command line program as a script would. */
function ravlen(
  ...args: readonly string[]
): Promise<{ readonly code: number; readonly output: string; readonly errors: string }> {
  return new Promise((resolve) => {
    execFile(
      process.execPath,
      ["--import", "tsx", "src/cli/main.ts", ...args],
      { cwd: process.cwd(), env: { ...process.env, NODE_ENV: "production" } },
      (error, output, errors) => resolve({ code: error ? Number(error.code) : 0, output, errors }),
    );
  });
}

const json = async <T>(...args: readonly string[]): Promise<T> => {
  const { code, output, errors } = await ravlen(...args, "--json");
  expect(errors).toBe("");
  expect(code).toBe(0);
  return JSON.parse(output) as T;
};

const FILE = "demo/uncollected-72h.yaml";

test("check names mistakes at their lines and fails; a good file passes", async () => {
  expect((await ravlen("check", FILE)).output).toContain("valid");
  const broken = test.info().outputPath("broken.yaml");
  writeFileSync(broken, readFileSync(FILE, "utf8").replace("lower(btrim(carrier))", "lowr(btrim(carrier))"));
  const { code, errors } = await ravlen("check", broken);
  expect(code).toBe(1);
  expect(errors).toMatch(
    /error: line \d+:\d+: The function lowr\(\) is not available\. Did you mean "lower"\?/,
  );
  const reported = JSON.parse((await ravlen("check", broken, "--json")).output) as {
    ok: boolean;
    problems: { code: string }[];
  };
  expect(reported).toMatchObject({ ok: false, problems: [{ code: "unknown_function" }] });
  expect((await ravlen("save", broken)).code).toBe(1);
  expect((await ravlen("check", "/nowhere.yaml")).code).toBe(1);
});

test("sql prints the statements, for the logical time asked for", async () => {
  const statements = await json<{ purpose: string; sql: string }[]>(
    "sql",
    FILE,
    "--at",
    "2026-06-23T22:30:00Z",
  );
  expect(statements.at(-1)!.purpose).toBe("training frame");
  expect(statements.map((statement) => statement.sql).join("\n")).toContain("2026-06-23T22:30:00.000Z");
  expect((await ravlen("sql", FILE)).output).toMatch(/-- training frame\nSELECT/);
});

test("the whole job: save, train, serve, score, and look at what came of it", async () => {
  const saved = await json<{ pipeline: string; version: number }>(
    "save",
    FILE,
    "--note",
    "from the command line",
  );
  expect(saved.pipeline).toBe("uncollected-72h");
  const trained = await json<{ state: string; version: number; metrics: { auc: number } }>(
    "train",
    "uncollected-72h",
  );
  expect(trained.state).toBe("done");
  expect(trained.metrics.auc).toBeGreaterThan(0.78);
  expect(await json("serve", "uncollected-72h", String(trained.version))).toEqual({
    pipeline: "uncollected-72h",
    inService: trained.version,
  });
  const scored = await json<{ state: string; rows: number }>(
    "score",
    "uncollected-72h",
    "--at",
    "2026-06-29T22:30:00Z",
  );
  expect(scored).toMatchObject({ state: "done" });
  const models = await json<{ version: number; inService: boolean }[]>(
    "models",
    "--pipeline",
    "uncollected-72h",
  );
  expect(models.filter((model) => model.inService).map((model) => model.version)).toEqual([trained.version]);
  const [last] = await json<{ kind: string; runTime: string; rows: number }[]>("runs", "--limit", "1");
  expect(last).toMatchObject({ kind: "score", runTime: "2026-06-29T22:30:00.000Z", rows: scored.rows });
  expect((await ravlen("runs")).output).toMatch(/score +done/);
});

test("a file is scored without the answer; a row that does not fit is a reject with its line, and the exit says so", async () => {
  const exported = test.info().outputPath("parcels.csv");
  expect((await ravlen("export", "larkmere.parcels", "--to", exported)).code).toBe(0);
  const [heading = "", ...rows] = readFileSync(exported, "utf8").split("\n").slice(0, 101);
  const weight = heading.split(",").indexOf("weight_g");
  const answer = heading.split(",").indexOf("collected_at");
  const without = (line: string): string =>
    line
      .split(",")
      .filter((_, place) => place !== answer)
      .join(",");
  const broken = rows.map((row, at) =>
    at === 4
      ? row
          .split(",")
          .map((value, place) => (place === weight ? "heavy" : value))
          .join(",")
      : row,
  );
  const file = test.info().outputPath("some.csv");
  writeFileSync(file, [heading, ...broken].map(without).join("\n"));
  const to = test.info().outputPath("scores.csv");
  const { code, output, errors } = await ravlen("score", "uncollected-72h", "--file", file, "--to", to);
  expect(errors).toContain("1 row does not fit and is not scored");
  expect(errors).toContain("line 6: weight_g: “heavy” is not a whole number");
  expect(output).toMatch(/^\d+ rows scored, written into/);
  expect(code).toBe(3);
  expect(readFileSync(to, "utf8").split("\n")[0]).toMatch(/,prediction,probability,/);
});

test("what can not be done fails with words", async () => {
  expect(await ravlen("train", "nothing")).toMatchObject({
    code: 1,
    errors: expect.stringContaining('There is no pipeline "nothing"'),
  });
  expect(await ravlen("score", "one-class")).toMatchObject({
    code: 1,
    errors: expect.stringContaining("is in service"),
  });
  expect(await ravlen("score", "uncollected-72h", "--at", "yesterday")).toMatchObject({
    code: 1,
    errors: expect.stringContaining("is not a time"),
  });
  expect((await ravlen("frobnicate")).code).toBe(1);
});

test("a second start says that one is running", async () => {
  expect(await ravlen("start")).toMatchObject({
    code: 1,
    errors: expect.stringMatching(/already running here: http:\/\/127\.0\.0\.1:\d+/),
  });
});

test("a web server that is killed comes back by itself", async ({ request }) => {
  const { pid } = JSON.parse(
    readFileSync(path.join(process.env["RAVLEN_HOME"] ?? ".ravlen", "instance.json"), "utf8"),
  ) as { pid: number };
  const children = readFileSync(`/proc/${pid}/task/${pid}/children`, "utf8").trim().split(" ");
  const web = children.find((child) =>
    readFileSync(`/proc/${child}/cmdline`, "utf8").includes("src/cli/web.ts"),
  );
  process.kill(Number(web), "SIGKILL");
  await expect
    .poll(() =>
      request.get("/").then(
        (response) => response.status(),
        () => 0,
      ),
    )
    .toBe(200);
});

test("a database that is killed comes back by itself, with its data", async ({ request }) => {
  const home = process.env["RAVLEN_HOME"] ?? ".ravlen";
  const before = await json<unknown[]>("models");
  const server = Number(readFileSync(path.join(home, "postgres/data/postmaster.pid"), "utf8").split("\n")[0]);
  process.kill(server, "SIGKILL");
  await expect.poll(() => ravlen("models", "--json").then(({ code }) => code)).toBe(0);
  expect(await json("models")).toEqual(before);
  await expect
    .poll(() =>
      request.get("/models").then(
        (response) => response.text(),
        () => "",
      ),
    )
    .toContain("plain logistic");
  expect(await json("score", "uncollected-72h")).toMatchObject({ state: "done" });
});
