import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

/** A process of the installation, with what it holds. */
export interface ProcessUse {
  readonly name: string;
  readonly pid: number;
  /** Megabytes in memory. */
  readonly megabytes: number;
  /** Open files and connections. */
  readonly handles: number;
}

const SCRIPTS: readonly (readonly [script: RegExp, name: string])[] = [
  [/src\/cli\/main\.ts/, "command"],
  [/src\/cli\/web\.ts/, "web"],
  [/src\/worker\/main\.ts/, "worker"],
  [/src\/worker\/imports\.ts/, "imports"],
];

const read = (file: string): string => {
  try {
    return readFileSync(file, "utf8");
  } catch {
    return "";
  }
};

function handlesOf(pid: number): number {
  try {
    return readdirSync(`/proc/${pid}/fd`).length;
  } catch {
    return 0;
  }
}

/** The installation's own processes: the command that started it, and its children. */
export function processesOf(command: number): readonly ProcessUse[] {
  const ids = readdirSync("/proc")
    .filter((name) => /^\d+$/.test(name))
    .map(Number);
  return ids.flatMap((pid) => {
    const status = read(`/proc/${pid}/status`);
    const parent = Number(/^PPid:\s+(\d+)/m.exec(status)?.[1]);
    if (pid !== command && parent !== command) return [];
    const line = read(`/proc/${pid}/cmdline`);
    const name = SCRIPTS.find(([script]) => script.test(line))?.[1];
    const kilobytes = Number(/^VmRSS:\s+(\d+)/m.exec(status)?.[1]);
    return name ? [{ name, pid, megabytes: kilobytes / 1024, handles: handlesOf(pid) }] : [];
  });
}

/** Files below a folder, but for the database's own. */
export function countFiles(folder: string): number {
  return readdirSync(folder, { withFileTypes: true }).reduce((sum, entry) => {
    if (entry.name === "postgres") return sum;
    return sum + (entry.isDirectory() ? countFiles(path.join(folder, entry.name)) : 1);
  }, 0);
}
