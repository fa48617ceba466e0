import path from "node:path";
import { Worker } from "node:worker_threads";

/** Starts a thread that runs one of this folder's scripts, named without its ending. */
export function startThread(script: string): Worker {
  const file = path.join(process.cwd(), "src/runs/threads", `${script}.ts`);
  // A thread does not inherit how the process reads TypeScript, so it is told again.
  return new Worker(`require("tsx/cjs"); require(${JSON.stringify(file)});`, { eval: true });
}
