import { availableParallelism } from "node:os";
import path from "node:path";
import { Worker } from "node:worker_threads";
import { sumHistograms, type HistogramArrays, type HistogramTask, type HistogramTeam } from "@/core/learn/memory/histogram";

/** What a thread is told: the arrays to read and write, or tasks to do. */
export type TeamMessage =
  | { readonly kind: "begin"; readonly arrays: HistogramArrays; readonly answers: Float64Array; readonly statistics: number; readonly gini: boolean }
  | { readonly kind: "run"; readonly tasks: readonly HistogramTask[]; readonly once: boolean };

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
    begin: (given, into, perBin, byClass) => {
      [arrays, answers, statistics, gini] = [given, into, perBin, byClass];
      for (const thread of threads) thread.postMessage({ kind: "begin", arrays, answers, statistics, gini } satisfies TeamMessage);
    },
    run: async (tasks, once) => {
      if (!arrays) throw new Error("begin() comes first");
      const shares = shareOut(tasks, threads.length + 1);
      const others = threads.map((thread, index) => ask(thread, { kind: "run", tasks: shares[index + 1]!, once }));
      sumHistograms(arrays, shares[0]!, answers, statistics, gini, once);
      await Promise.all(others);
    },
    close: async () => {
      await Promise.all(threads.map((thread) => thread.terminate()));
    },
  };
}

/**
 * Divides tasks so that every thread has about as many rows to go through; pairs of columns of one node stay together. Which thread
 * does a task does not change its sum.
 */
function shareOut(tasks: readonly HistogramTask[], count: number): readonly (readonly HistogramTask[])[] {
  const pairs: HistogramTask[][] = [];
  for (let place = 0; place < tasks.length; place += 1) {
    const [task, next] = [tasks[place]!, tasks[place + 1]];
    const together = next !== undefined && next.from === task.from && next.to === task.to;
    pairs.push(together ? [task, next] : [task]);
    if (together) place += 1;
  }
  const rows = (pair: readonly HistogramTask[]): number => pair.reduce((sum, each) => sum + each.to - each.from, 0);
  const shares = Array.from({ length: count }, () => ({ rows: 0, tasks: [] as HistogramTask[] }));
  for (const pair of pairs.sort((left, right) => rows(right) - rows(left))) {
    const least = shares.reduce((best, each) => (each.rows < best.rows ? each : best));
    least.tasks.push(...pair);
    least.rows += rows(pair);
  }
  return shares.map((each) => each.tasks);
}

function start(): Promise<Worker> {
  const script = path.join(__dirname, "histogram-thread.ts");
  // A thread does not inherit how the process reads TypeScript, so it is told again.
  const thread = new Worker(`require("tsx/cjs"); require(${JSON.stringify(script)});`, { eval: true });
  return new Promise((resolve, reject) => {
    thread.once("message", () => {
      thread.off("error", reject);
      resolve(thread);
    });
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
