import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer as createWeb } from "node:http";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { until } from "../../../testing/installation";
import { columnsOfText } from "../output";
import { KeptChild } from "./children";
import { watchLiveness } from "./liveness";
import { lockFolder } from "./folder-lock";
import { freePort, listenFrom } from "./ports";

const folder = mkdtempSync(path.join(tmpdir(), "ravlen-services-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

test("servers that want the same port at the same moment all listen, each at its own", async () => {
  const servers = Array.from({ length: 6 }, () => createServer());
  const ports = await Promise.all(servers.map((server) => listenFrom(server, 55_300)));
  expect(new Set(ports).size).toBe(6);
  expect(servers.map((server) => (server.address() as { port: number }).port)).toEqual(ports);
  await Promise.all(servers.map((server) => new Promise((resolve) => server.close(resolve))));
});

test("a folder is held by one process at a time, and is free when that process is killed", async () => {
  const home = path.join(folder, "held");
  const unlock = await lockFolder(home);
  await expect(lockFolder(home)).rejects.toThrow(`(process ${process.pid})`);
  unlock();
  (await until("the lock to be free", () => lockFolder(home)))();
  const file = path.join(process.cwd(), "src/cli/services/folder-lock.ts");
  const other = spawn(
    process.execPath,
    [
      "--import",
      "tsx",
      "-e",
      `require(${JSON.stringify(file)}).lockFolder(process.argv[1]).then(() => { console.log("held"); setInterval(() => {}, 1000); })`,
      home,
    ],
    { stdio: ["ignore", "pipe", "inherit"] },
  );
  await new Promise((resolve) => other.stdout.once("data", resolve));
  await expect(lockFolder(home)).rejects.toThrow(`(process ${other.pid})`);
  other.kill("SIGKILL");
  (await until("the lock to be free", () => lockFolder(home)))();
});

test("a port that is taken is stepped over", async () => {
  const wanted = await freePort(55_000);
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(wanted, "127.0.0.1", resolve));
  try {
    expect(await freePort(wanted)).toBeGreaterThan(wanted);
  } finally {
    await new Promise((resolve) => server.close(resolve));
  }
  expect(await freePort(wanted)).toBe(wanted);
});

describe("a kept child", () => {
  const script = (name: string, body: string): string => {
    const file = path.join(folder, `${name}.mjs`);
    writeFileSync(file, body);
    return file;
  };
  const child = (name: string, body: string, lines: string[]): KeptChild =>
    new KeptChild({
      name,
      script: script(name, body),
      home: folder,
      env: { STARTS: path.join(folder, `${name}.starts`) },
      say: (line) => void lines.push(line),
    });
  const STEADY =
    'import { appendFileSync } from "node:fs"; appendFileSync(process.env.STARTS, "x"); process.send("ready"); setInterval(() => {}, 1000); process.on("SIGTERM", () => process.exit(0));';

  test("is started again when it is killed, and not when it is stopped", async () => {
    const lines: string[] = [];
    const kept = child("steady", STEADY, lines);
    await kept.start();
    const first = kept.pid!;
    process.kill(first, "SIGKILL");
    const starts = (): string => readFileSync(path.join(folder, "steady.starts"), "utf8");
    const end = Date.now() + 60_000;
    while (starts() !== "xx" && Date.now() < end) await new Promise((resolve) => setTimeout(resolve, 50));
    expect(kept.pid).not.toBe(first);
    expect(lines).toEqual(["the steady ended (SIGKILL); starting it again"]);
    await kept.stop();
    expect(() => process.kill(kept.pid!, 0)).toThrow();
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(starts()).toBe("xx");
  });

  test("that never gets ready is reported with its log, not tried for ever", async () => {
    await expect(
      child("broken", 'console.error("no database"); process.exit(3);', []).start(),
    ).rejects.toThrow(/the broken did not start \(3\); see .*broken\.log/);
    expect(readFileSync(path.join(folder, "broken.log"), "utf8")).toContain("no database");
  });
});

test("columns of text are lined up, numbers to the right", () => {
  expect(
    columnsOfText([
      ["name", "rows"],
      ["a", "12"],
      ["longer", "1,234"],
    ]),
  ).toBe("name    rows\na          12\nlonger  1,234");
});

test("a server that answers, whatever it says, lives; one that is silent for long is told to be dead, once", async () => {
  let answers = true;
  const server = createWeb((_request, response) => {
    if (answers) response.writeHead(503).end("not well");
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as { port: number };
  let dead = 0;
  const unwatch = watchLiveness(`http://127.0.0.1:${port}/alive`, () => (dead += 1), {
    every: 50,
    silent: 1500,
  });
  const wait = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));
  try {
    await wait(3000);
    expect(dead).toBe(0);
    answers = false;
    await wait(5000);
    expect(dead).toBe(1);
  } finally {
    unwatch();
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  }
});
