import path from "node:path";
import { Worker } from "node:worker_threads";

const running = new Set<Worker>();

/** Starts a thread that runs one of this folder's scripts, named without its ending. */
export function startThread(script: string): Worker {
  const file = path.join(process.cwd(), "src/runs/threads", `${script}.ts`);
  // A thread does not inherit how the process reads TypeScript, so it is told again.
  const thread = new Worker(`require("tsx/cjs"); require(${JSON.stringify(file)});`, { eval: true });
  running.add(thread);
  thread.once("exit", () => running.delete(thread));
  return thread;
}

/** Ends all threads of this process, whatever they do. Who waits for one is told so; the next question starts another. */
export async function endThreads(): Promise<void> {
  await Promise.all([...running].map((thread) => thread.terminate()));
}
