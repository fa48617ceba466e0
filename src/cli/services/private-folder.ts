import { chmodSync, lstatSync, mkdirSync, readdirSync, rmSync } from "node:fs";
import path from "node:path";
import { temporaryFolder } from "@/runs/context";

/** Others may pass through the folder, since PostgreSQL's own user must reach its data below it, but not list it. */
const PASSABLE = 0o711;
/** The database looks after the rights of its own files. */
const DATABASE = "postgres";

/**
 * Makes the folder of an installation, and sees to it that nobody but its owner reads what lies in it: from now on, and what an earlier
 * version left readable. Temporary files of an earlier process are removed.
 */
export function openPrivateFolder(home: string): void {
  process.umask(0o077);
  mkdirSync(home, { recursive: true });
  for (const name of readdirSync(home)) if (name !== DATABASE) makePrivate(path.join(home, name));
  chmodSync(home, PASSABLE);
  rmSync(temporaryFolder(home), { recursive: true, force: true });
}

function makePrivate(file: string): void {
  const found = lstatSync(file);
  if (found.isSymbolicLink()) return;
  if (!found.isDirectory()) {
    chmodSync(file, 0o600);
    return;
  }
  chmodSync(file, 0o700);
  for (const name of readdirSync(file)) makePrivate(path.join(file, name));
}
