import { availableParallelism } from "node:os";
import path from "node:path";
import { Worker } from "node:worker_threads";
import { sumHistogram, type HistogramArrays, type HistogramTask, type HistogramTeam } from "@/core/learn/memory/histogram";

/** What a thread is told: the arrays to read and write, or tasks to do. */
export type TeamMessage =
  | { readonly kind: "begin"; readonly arrays: HistogramArrays; readonly answers: Float64Array; readonly statistics: number; readonly gini: boolean }
  | { readonly kind: "run"; readonly tasks: readonly HistogramTask[] };

/** Threads that sum histograms, this one among them. */
export interface Team extends HistogramTeam {
  readonly close: () => Promise<void>;
}

/** Starts threads, one for each further processor. All of them share the arrays; nothing is copied. */
export async function openTeam(size = Math.min(availableParallelism(), 8)): Promise<Team> {
  const threads = await Promise.all(Array.from({ length: size - 1 }, () => start()));
  let arrays: HistogramArrays | undefined;
  let answers: Float64Array = new Float64Array(0);
  let statistics = 3;
  let gini = false;
  return {
    begin: (given, into, classes) => {
      [arrays, answers, statistics, gini] = [given, into, classes === 0 ? 3 : classes, classes > 0];
      for (const thread of threads) thread.postMessage({ kind: "begin", arrays, answers, statistics, gini } satisfies TeamMessage);
    },
    run: async (tasks) => {
      if (!arrays) throw new Error("begin() comes first");
      const shares = shareOut(tasks, threads.length + 1);
      const others = threads.map((thread, index) => ask(thread, { kind: "run", tasks: shares[index + 1]! }));
      for (const task of shares[0]!) sumHistogram(arrays, task, answers, statistics, gini);
      await Promise.all(others);
    },
    close: async () => {
      await Promise.all(threads.map((thread) => thread.terminate()));
    },
  };
}

/** Divides tasks so that every thread has about as many rows to go through. Which thread does a task does not change its sum. */
function shareOut(tasks: readonly HistogramTask[], count: number): readonly (readonly HistogramTask[])[] {
  const shares = Array.from({ length: count }, () => ({ rows: 0, tasks: [] as HistogramTask[] }));
  for (const task of [...tasks].sort((left, right) => right.to - right.from - (left.to - left.from))) {
    const least = shares.reduce((best, each) => (each.rows < best.rows ? each : best));
    least.tasks.push(task);
    least.rows += task.to - task.from;
  }
  return shares.map((each) => each.tasks);
}

function start(): Promise<Worker> {
  const thread = new Worker(path.join(__dirname, "histogram-thread.ts"), { execArgv: ["--import", "tsx"] });
  return new Promise((resolve, reject) => {
    thread.once("online", () => resolve(thread));
    thread.once("error", reject);
  });
}

function ask(thread: Worker, message: TeamMessage): Promise<void> {
  return new Promise((resolve, reject) => {
    const done = (): void => {
      thread.off("error", failed);
      resolve();
    };
    const failed = (error: Error): void => {
      thread.off("message", done);
      reject(error);
    };
    thread.once("message", done);
    thread.once("error", failed);
    thread.postMessage(message);
  });
}
