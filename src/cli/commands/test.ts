import { spawn } from "node:child_process";
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { Command } from "commander";
import { buildPages } from "../services/build";
import { freePort } from "../services/ports";
import { adminLogin, startPostgres, stopPostgres } from "../services/postgres";
import { say } from "../services/installation";
import {
  addTallies,
  browserTally,
  EMPTY_TALLY,
  orBroken,
  tallyOf,
  unitTally,
  type Tally,
} from "../services/test-tally";

type Lane = "sources" | "warehouse" | BrowserDay;

interface Part {
  readonly name: string;
  /** Parts of different lanes run beside each other, since one alone does not keep two processors busy. */
  readonly lane: Lane;
  readonly run: (home: string) => Promise<Tally>;
}

const bin = (name: string): string => path.join(process.cwd(), "node_modules/.bin", name);
const TEST_DATABASE_PORT = 54480;
/** The browser's tests are two working days, each on an installation of its own: their names in e2e/playwright.config.ts, and the ports. */
const BROWSER_DAYS = {
  operating: { web: 4480, database: 54480 },
  building: { web: 4481, database: 54481 },
} as const;
type BrowserDay = keyof typeof BROWSER_DAYS;
/** A shared machine has at times a tenth of its speed; what hangs is still found. */
const TEST_MILLISECONDS = "300000";

/** Runs a program with its output shown; gives its exit code. */
function show(
  program: string,
  args: readonly string[],
  env: Readonly<Record<string, string>> = {},
): Promise<number> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, [...args], {
      stdio: ["ignore", "inherit", "inherit"],
      env: { ...process.env, ...env },
    });
    child.once("error", reject);
    child.once("exit", (code) => resolve(code ?? 1));
  });
}

const eslint = async (): Promise<Tally> =>
  tallyOf("eslint", await show(bin("eslint"), [".", "--max-warnings", "0"]));
const prettier = async (): Promise<Tally> =>
  tallyOf("prettier", await show(bin("prettier"), ["--check", "--log-level", "warn", "."]));

async function jest(
  home: string,
  project: string,
  env: Readonly<Record<string, string>>,
  shard?: string,
): Promise<Tally> {
  const file = path.join(home, `${project}-${(shard ?? "all").replace("/", "-of-")}.json`);
  // The warehouse tests of a lane share one server: one file at a time keeps them honest and steady.
  const code = await show(
    bin("jest"),
    [
      "--selectProjects",
      project,
      "--json",
      "--outputFile",
      file,
      "--testTimeout",
      TEST_MILLISECONDS,
      ...(project === "warehouse" ? ["--runInBand"] : []),
      ...(shard === undefined ? [] : ["--shard", shard]),
    ],
    { NODE_ENV: "test", ...env },
  );
  return orBroken(unitTally(file, project), project, code);
}

/** Parts of the warehouse tests that no lane has taken yet. */
const SHARDS = 8;
const leftShards = Array.from({ length: SHARDS }, (_, index) => `${index + 1}/${SHARDS}`);

/** Warehouse tests, on a server of the lane's own, until none is left, so that both lanes end at about the same time. */
async function warehouseTests(home: string, lane: string): Promise<Tally> {
  const own = path.join(home, `warehouse-of-${lane}`);
  mkdirSync(own, { mode: 0o711 });
  const { port, folder } = await startPostgres(own, () => freePort(TEST_DATABASE_PORT), say);
  try {
    let tally = EMPTY_TALLY;
    for (let shard = leftShards.shift(); shard !== undefined; shard = leftShards.shift()) {
      const found = await jest(
        home,
        "warehouse",
        { RAVLEN_TEST_ADMIN: JSON.stringify(adminLogin(own, port)), RAVLEN_LOG: "silent" },
        shard,
      );
      tally = addTallies(tally, found);
    }
    return tally;
  } finally {
    stopPostgres(folder);
    rmSync(path.dirname(folder.data), { recursive: true, force: true });
  }
}

let pages: Promise<void> | undefined;
/** The pages, built once: two builds in one folder are refused. */
const builtPages = (): Promise<void> => (pages ??= buildPages(process.cwd(), say));

/** Starts the demo as a person would, on a folder of its own, and walks through it in a browser. */
async function browserTests(home: string, day: BrowserDay): Promise<Tally> {
  await builtPages();
  const own = path.join(home, `browser-${day}`);
  mkdirSync(own, { mode: 0o711 });
  const env = { ...process.env, RAVLEN_HOME: own, RAVLEN_LOG: "warn" };
  const demo = spawn(
    process.execPath,
    [
      "--import",
      "tsx",
      "src/cli/main.ts",
      "demo",
      "--scale",
      "0.3",
      "--history",
      "0",
      "--port",
      String(BROWSER_DAYS[day].web),
      "--database-port",
      String(BROWSER_DAYS[day].database),
    ],
    { stdio: ["ignore", "pipe", "inherit"], env },
  );
  try {
    const address = await new Promise<string>((resolve, reject) => {
      let output = "";
      demo.stdout.on("data", (chunk: Buffer) => {
        output += chunk.toString();
        const found = /http:\/\/127\.0\.0\.1:\d+/.exec(output);
        if (found) resolve(found[0]);
      });
      demo.once("exit", (code) => reject(new Error(`the demo ended before it was ready (${code})`)));
    });
    const file = path.join(home, `browser-${day}.json`);
    const code = await show(
      bin("playwright"),
      ["test", "--config", "e2e/playwright.config.ts", "--project", day],
      {
        NODE_ENV: "test",
        RAVLEN_URL: address,
        RAVLEN_HOME: own,
        PLAYWRIGHT_JSON_OUTPUT_NAME: file,
      },
    );
    return orBroken(browserTally(file, "browser"), "browser", code);
  } finally {
    await new Promise<void>((resolve) => {
      if (demo.exitCode !== null) return resolve();
      demo.once("exit", () => resolve());
      demo.kill("SIGTERM");
    });
  }
}

const PARTS: readonly Part[] = [
  {
    name: "lint",
    lane: "sources",
    run: async () => addTallies(await eslint(), await prettier()),
  },
  { name: "types", lane: "sources", run: async () => tallyOf("types", await show(bin("tsc"), ["--noEmit"])) },
  {
    name: "arrows",
    lane: "sources",
    run: async () =>
      tallyOf("arrows", await show(bin("depcruise"), ["--config", ".dependency-cruiser.cjs", "src"])),
  },
  { name: "core", lane: "sources", run: (home) => jest(home, "core", {}) },
  {
    name: "pages",
    lane: "sources",
    run: async () => {
      await builtPages();
      return tallyOf("pages", 0);
    },
  },
  { name: "warehouse", lane: "sources", run: (home) => warehouseTests(home, "sources") },
  { name: "warehouse", lane: "warehouse", run: (home) => warehouseTests(home, "warehouse") },
  { name: "browser", lane: "operating", run: (home) => browserTests(home, "operating") },
  { name: "browser", lane: "building", run: (home) => browserTests(home, "building") },
];

/** Runs parts one after the other; a part that breaks counts as failed. */
async function runParts(parts: readonly Part[], home: string): Promise<Tally> {
  let total = EMPTY_TALLY;
  for (const part of parts) {
    say(`test: ${part.name}`);
    const tally = await part.run(home).catch((error: unknown): Tally => {
      say(`${part.name} broke: ${error instanceof Error ? error.message : String(error)}`);
      return tallyOf(part.name, 1);
    });
    total = addTallies(total, tally);
  }
  return total;
}

/** test: everything that must hold before a change lands, or the named parts of it. */
export function addTestCommand(program: Command): void {
  program
    .command("test")
    .argument("[parts...]", [...new Set(PARTS.map((part) => part.name))].join(", "))
    .description("formatting, lint, types, arrows between layers, and all tests")
    .action(async (wanted: readonly string[]) => {
      const unknown = wanted.find((text) => !PARTS.some((part) => part.name === text));
      if (unknown !== undefined)
        throw new Error(
          `There is no part "${unknown}"; there is: ${[...new Set(PARTS.map((part) => part.name))].join(", ")}.`,
        );
      const home = mkdtempSync(path.join(tmpdir(), "ravlen-test-"));
      // PostgreSQL's own user must be able to pass through to its data.
      chmodSync(home, 0o711);
      const chosen = PARTS.filter((part) => wanted.length === 0 || wanted.includes(part.name));
      const beside = (lanes: readonly Lane[]): Promise<readonly Tally[]> =>
        Promise.all(
          lanes.map((lane) =>
            runParts(
              chosen.filter((part) => part.lane === lane),
              home,
            ),
          ),
        );
      const tallies: Tally[] = [];
      try {
        tallies.push(...(await beside(["sources", "warehouse"])));
        // Last: how fast a page is, is part of what they test.
        tallies.push(...(await beside(["operating", "building"])));
      } finally {
        rmSync(home, { recursive: true, force: true });
      }
      const { passed, failures } = tallies.reduce(addTallies, EMPTY_TALLY);
      for (const name of failures) say(`failed: ${name}`);
      process.stdout.write(`${passed} passed, ${failures.length} failed\n`);
      process.exitCode = failures.length === 0 && passed > 0 ? 0 : 1;
    });
}
