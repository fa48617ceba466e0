import { readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { workingImports } from "@/store/imports";
import type { Context } from "../context";
import { uploadsFolder } from "./job";

const DAY_MILLISECONDS = 86_400_000;
const REJECTS = ".rejects.csv";

/**
 * Removes uploaded files that were not loaded within a day, and lists of rejected rows after as many days as records are kept.
 * A file that is being worked on stays.
 * @returns how many files were removed
 */
export async function sweepUploads({ store }: Pick<Context, "store">, recordDays: number): Promise<number> {
  const folder = uploadsFolder();
  const names = await readdir(folder).catch(() => []);
  if (names.length === 0) return 0;
  const working = new Set(await workingImports(store.db));
  let removed = 0;
  for (const name of names) {
    if (working.has(name.replace(REJECTS, ""))) continue;
    const days = name.endsWith(REJECTS) ? recordDays : 1;
    const file = path.join(folder, name);
    const found = await stat(file).catch(() => undefined);
    if (!found || Date.now() - found.mtimeMs < days * DAY_MILLISECONDS) continue;
    await rm(file, { force: true });
    removed += 1;
  }
  return removed;
}
