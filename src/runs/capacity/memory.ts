import { setTimeout } from "node:timers/promises";
import { totalmem } from "node:os";
import { formatBytes } from "@/core/format/numbers";
import { freeMemory, reserveMemory } from "@/store/workers";
import type { Context } from "../context";
import type { RunRecorder } from "../recorder";

const MEGABYTE = 1024 * 1024;
/** Of the memory of all workers together; the rest is left for the small runs that go past a large one. */
const SHARE_OF_ONE = 7 / 8;
const PAUSE_MILLISECONDS = 1000;

/** Bytes that the streamed rows of all workers together may take: a setting of the server, or half of the computer's memory. */
function memoryOfAll(): number {
  const set = Number(process.env["RAVLEN_MEMORY_MB"]);
  return Number.isFinite(set) && set > 0 ? set * MEGABYTE : totalmem() / 2;
}

/** Bytes that the streamed rows of one run may take. */
export const memoryLimit = (): number => memoryOfAll() * SHARE_OF_ONE;

/**
 * Takes memory for a run's rows, as soon as the other runs leave as much. The run says so when it has to wait.
 * @returns what gives the memory back
 */
export async function takeMemory(
  context: Context,
  recorder: RunRecorder,
  bytes: number,
): Promise<() => Promise<void>> {
  const { db } = context.store;
  const { id, workload } = recorder.run;
  const limit = workload?.small === false ? memoryLimit() : memoryOfAll();
  let told = false;
  while (!(await reserveMemory(db, id, { bytes: Math.min(bytes, limit), limit }))) {
    if (!told)
      await recorder.say(
        "info",
        `Waiting for memory: the rows need about ${formatBytes(bytes)} of the ${formatBytes(limit)} shared by the workers.`,
      );
    told = true;
    await setTimeout(PAUSE_MILLISECONDS);
    recorder.goesOn();
    recorder.stopIfAsked();
  }
  return () => freeMemory(db, id);
}
