import { execFileSync, spawnSync } from "node:child_process";
import {
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
} from "node:fs";
import { createHash, randomBytes } from "node:crypto";
import path from "node:path";
import pg from "pg";

/** PostgreSQL refuses to run as root, so root lends it the user that Debian's package makes. */
const SYSTEM_USER = "postgres";
const isRoot = (): boolean => process.getuid?.() === 0;

export interface PostgresFolder {
  readonly data: string;
  readonly socket: string;
}

function binaries(): string {
  const root = "/usr/lib/postgresql";
  const versions = existsSync(root)
    ? readdirSync(root).filter((text) => existsSync(path.join(root, text, "bin/initdb")))
    : [];
  const newest = versions.sort((left, right) => Number(right) - Number(left))[0];
  if (newest === undefined)
    throw new Error("PostgreSQL is not installed. As root: apt-get install postgresql");
  return path.join(root, newest, "bin");
}

/** Runs a PostgreSQL program as the user that owns its data. */
function runAs(
  program: string,
  args: readonly string[],
): { readonly status: number | null; readonly output: string } {
  const [command, all] = isRoot()
    ? ["setpriv", [`--reuid=${SYSTEM_USER}`, `--regid=${SYSTEM_USER}`, "--init-groups", program, ...args]]
    : [program, [...args]];
  const result = spawnSync(command, all as string[], {
    encoding: "utf8",
    cwd: "/",
    stdio: ["ignore", "pipe", "pipe"],
    env: { ...process.env, LANG: "C.UTF-8" },
  });
  return { status: result.status, output: `${result.stdout}${result.stderr}` };
}

/** Makes a file or folder PostgreSQL's, where that runs as a user of its own. */
function giveToSystemUser(file: string): void {
  if (!isRoot()) return;
  const [uid, gid] = ["-u", "-g"].map((flag) =>
    Number(execFileSync("id", [flag, SYSTEM_USER], { encoding: "utf8" })),
  );
  chownSync(file, uid!, gid!);
}

/** Where data lie that cannot lie in the installation's folder. */
const COMMON_FOLDER = "/var/lib/ravlen";

/** The data folder: inside `home`, or, where PostgreSQL's user cannot enter that, in one it can. */
export function postgresFolder(home: string): PostgresFolder {
  mkdirSync(home, { recursive: true });
  let folder = path.join(home, "postgres");
  if (isRoot() && runAs("/usr/bin/test", ["-x", home]).status !== 0) {
    folder = path.join(COMMON_FOLDER, createHash("sha256").update(home).digest("hex").slice(0, 12));
    mkdirSync(COMMON_FOLDER, { recursive: true });
    // Its user passes through to its own folder, and sees nothing of others.
    chmodSync(COMMON_FOLDER, 0o711);
  }
  mkdirSync(folder, { recursive: true });
  giveToSystemUser(folder);
  chmodSync(folder, 0o700);
  return { data: path.join(folder, "data"), socket: folder };
}

/** The superuser's password, made once and kept readable for the owner of `home` only. */
export function superuserPassword(home: string): string {
  const file = path.join(home, "superuser-password");
  if (!existsSync(file)) writeFileSync(file, randomBytes(24).toString("hex"), { mode: 0o600 });
  return readFileSync(file, "utf8").trim();
}

function initialise(folder: PostgresFolder, home: string, say: (line: string) => void): void {
  if (existsSync(path.join(folder.data, "PG_VERSION"))) return;
  say("creating a new database cluster");
  // A cluster that was only half made (a kill during initdb) has no version file and is made again.
  rmSync(folder.data, { recursive: true, force: true });
  const passwordFile = path.join(folder.socket, "initial-password");
  writeFileSync(passwordFile, superuserPassword(home), { mode: 0o600 });
  giveToSystemUser(passwordFile);
  const made = runAs(path.join(binaries(), "initdb"), [
    "-D",
    folder.data,
    "-U",
    "ravlen_admin",
    "--auth=scram-sha-256",
    `--pwfile=${passwordFile}`,
    "--encoding=UTF8",
    "--locale=C.UTF-8",
  ]);
  rmSync(passwordFile, { force: true });
  if (made.status !== 0) throw new Error(`initdb failed:\n${made.output}`);
}

/** Share of the free disk that sorting and joining of one session may take, and the least that it may, in bytes. */
const [TEMPORARY_SHARE, LEAST_TEMPORARY] = [0.25, 2 ** 30];

function temporaryKilobytes(data: string): number {
  const { bavail, bsize } = statfsSync(data);
  return Math.floor(Math.max(LEAST_TEMPORARY, TEMPORARY_SHARE * bavail * bsize) / 1024);
}

/** Starts PostgreSQL on loopback; one that an earlier start left behind is stopped first. */
export async function startPostgres(
  home: string,
  port: () => Promise<number>,
  say: (line: string) => void,
): Promise<{ readonly port: number; readonly folder: PostgresFolder }> {
  const folder = postgresFolder(home);
  initialise(folder, home, say);
  stopPostgres(folder);
  for (let tries = 1; ; tries += 1) {
    const chosen = await port();
    const failed = startServer(folder, chosen);
    if (failed === undefined) return { port: chosen, folder };
    if (tries === MOST_STARTS)
      throw new Error(`PostgreSQL did not start; see ${path.join(folder.socket, "server.log")}\n${failed}`);
    say("the database did not start; retrying");
    await new Promise((resolve) => setTimeout(resolve, BETWEEN_STARTS));
  }
}

/** Starts of PostgreSQL before it is given up, and milliseconds between two: another program may have taken its port, or still end. */
const [MOST_STARTS, BETWEEN_STARTS] = [3, 1000];

/** Starts the server of a data folder on a port. @returns what went wrong, if it did not start */
function startServer(folder: PostgresFolder, port: number): string | undefined {
  const settings = {
    port,
    listen_addresses: "'127.0.0.1'",
    unix_socket_directories: `'${folder.socket}'`,
    track_commit_timestamp: "on",
    max_connections: 60,
    shared_buffers: "512MB",
    work_mem: "64MB",
    maintenance_work_mem: "256MB",
    max_wal_size: "4GB",
    max_parallel_workers_per_gather: 2,
    random_page_cost: "1.1",
    timezone: "'UTC'",
    log_min_messages: "warning",
    temp_file_limit: `${temporaryKilobytes(folder.data)}kB`,
  };
  writeFileSync(
    path.join(folder.data, "postgresql.auto.conf"),
    Object.entries(settings)
      .map(([name, value]) => `${name} = ${value}\n`)
      .join(""),
  );
  const started = runAs(path.join(binaries(), "pg_ctl"), [
    "start",
    "-D",
    folder.data,
    "-l",
    path.join(folder.socket, "server.log"),
    "-w",
    "-t",
    "120",
  ]);
  return started.status === 0 ? undefined : started.output;
}

/**
 * Stops the server of a data folder, if it runs.
 * @param how fast: sessions are ended, and what is written is written; immediate: as if it had crashed
 */
export function stopPostgres(folder: PostgresFolder, how: "fast" | "immediate" = "fast"): void {
  if (!existsSync(path.join(folder.data, "postmaster.pid"))) return;
  const stopped = runAs(path.join(binaries(), "pg_ctl"), [
    "stop",
    "-D",
    folder.data,
    "-m",
    how,
    "-w",
    "-t",
    "60",
  ]);
  // The file of a server that was killed names a process that is gone; pg_ctl says so and the next start clears it.
  if (
    stopped.status !== 0 &&
    runAs(path.join(binaries(), "pg_ctl"), ["status", "-D", folder.data]).status === 0
  ) {
    runAs(path.join(binaries(), "pg_ctl"), ["stop", "-D", folder.data, "-m", "immediate", "-w", "-t", "30"]);
  }
}

/** Whether the server of a data folder lives: the first line of its file is its process. */
function isAlive(folder: PostgresFolder): boolean {
  try {
    process.kill(Number(readFileSync(path.join(folder.data, "postmaster.pid"), "utf8").split("\n")[0]), 0);
    return true;
  } catch (error) {
    // A process of another user is alive, too.
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

const WATCH_MILLISECONDS = 3000;

/** Starts the server again on its port when it has gone away; gives the means to stop watching. */
export function keepPostgres(
  home: string,
  folder: PostgresFolder,
  port: number,
  say: (line: string) => void,
): () => void {
  let starting = false;
  const timer = setInterval(() => {
    if (starting || isAlive(folder)) return;
    starting = true;
    say("the database ended; starting it again");
    startPostgres(home, () => Promise.resolve(port), say)
      .catch((error: unknown) => say(String(error)))
      .finally(() => {
        starting = false;
      });
  }, WATCH_MILLISECONDS);
  return () => clearInterval(timer);
}

export interface AdminLogin {
  readonly host: string;
  readonly port: number;
  readonly user: string;
  readonly password: string;
}

/** The superuser's login. Used to make databases and roles, never for a pipeline's work. */
export const adminLogin = (home: string, port: number): AdminLogin => ({
  host: "127.0.0.1",
  port,
  user: "ravlen_admin",
  password: superuserPassword(home),
});

/** Runs statements as the superuser. */
export async function asAdmin<T>(
  admin: AdminLogin,
  database: string,
  work: (client: pg.Client) => Promise<T>,
): Promise<T> {
  const client = new pg.Client({ ...admin, database });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}
