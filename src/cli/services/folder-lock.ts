import { spawn } from "node:child_process";
import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";

/** Tells that the folder is held by another process. */
export class FolderHeld extends Error {}

const heldBy = (file: string): string => {
  const pid = readFileSync(file, "utf8").trim();
  return pid === "" ? "" : ` (process ${pid})`;
};

/**
 * Holds a folder for this process alone, until it ends or lets go. The kernel keeps the lock, so none is left behind by a process that
 * was killed: a child of ours holds it, and ends with us.
 * @returns a function that lets go
 * @throws FolderHeld when another process holds it
 */
export async function lockFolder(home: string): Promise<() => void> {
  mkdirSync(home, { recursive: true });
  const file = path.join(home, "lock");
  const child = spawn("flock", ["--nonblock", file, "sh", "-c", "echo held; exec cat"], {
    stdio: ["pipe", "pipe", "ignore"],
    // Ctrl+C in a terminal is for us: the lock is held until everything is stopped.
    detached: true,
  });
  await new Promise<void>((resolve, reject) => {
    child.once("error", reject);
    child.once("exit", () =>
      reject(
        new FolderHeld(
          `Another command is starting or running Ravlen in ${home}${heldBy(file)}. Wait until it is ready, or stop it first.`,
        ),
      ),
    );
    child.stdout.once("data", () => resolve());
  });
  writeFileSync(file, `${process.pid}\n`);
  child.unref();
  child.stdin.on("error", () => undefined);
  return () => child.stdin.end();
}
