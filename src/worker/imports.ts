import { hostname } from "node:os";
import pino from "pino";
import { formatNumber } from "@/core/format/numbers";
import { problem, type Problem } from "@/core/problem";
import { openContext, readInstance } from "@/runs/context";
import { doImport } from "@/runs/import/job";
import { importMegabytes } from "@/runs/import/memory";
import { openQueue, workOnImports } from "@/runs/queue";
import { failImportsOf } from "@/store/imports";
import { warehouseMark } from "@/store/settings";
import { runAsChild } from "./child-process";
import { WarehouseWatch } from "./warehouse-watch";

const log = pino({ name: "ravlen imports", level: process.env["RAVLEN_LOG"] ?? "info" });
const LOOK_MILLISECONDS = 500;
const WAREHOUSE_MILLISECONDS = 2000;
/** How a process ends that has no memory left. */
const OUT_OF_MEMORY = ["SIGABRT", "134"];
/** What the process needs for itself, in megabytes. */
const OWN_MEGABYTES = 512;

/** Why the process before this one ended while it worked on a file. */
function whyEnded(end: string): Problem {
  if (OUT_OF_MEMORY.includes(end))
    return problem(
      "import_memory",
      `Reading this file needs more than the ${formatNumber(importMegabytes())} MB of memory, the limit for imports.`,
      "Nothing was loaded. Save it as CSV or Parquet, or in smaller files; or raise RAVLEN_IMPORT_MB.",
    );
  return problem(
    "worker_lost",
    `The process that reads files ended (${end}) while reading this one.`,
    "Nothing was loaded. Load it again.",
  );
}

/** The process that reads files: when one of them is too much for it, it ends alone, and the next one says why. */
async function main(): Promise<void> {
  const instance = readInstance();
  if (!instance) throw new Error("Ravlen is not running here.");
  // The same for every such process of this installation: there is one at a time.
  const name = `${hostname()}/imports`;
  const context = await openContext(instance);
  const { db } = context.store;
  await failImportsOf(db, name, whyEnded(process.env["RAVLEN_LAST_END"] ?? "stopped"));
  const boss = await openQueue(instance.databaseUrl, "sender", (error) =>
    log.warn({ error: error.message }, "queue"),
  );
  await workOnImports(boss, (id) => doImport(context, id, name));
  const watch = new WarehouseWatch(db, await warehouseMark(db));
  setInterval(() => {
    void watch.look().catch(() => undefined);
    // No warehouse is connected while a file is being read.
    if (watch.changed) process.exit(0);
  }, WAREHOUSE_MILLISECONDS).unref();
  // What V8 does not count, such as bytes of files, is watched here.
  setInterval(() => {
    const megabytes = process.memoryUsage().rss / 1024 / 1024;
    if (megabytes > importMegabytes() + OWN_MEGABYTES) process.abort();
  }, LOOK_MILLISECONDS).unref();
}

runAsChild(log, main);
