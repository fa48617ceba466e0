import { parentPort } from "node:worker_threads";
import { sumHistograms } from "../../core/learn/memory/histogram";
import type { TeamMessage } from "./team";

/** One thread of a team: keeps the shared arrays, and sums what it is told to. */
let begun: Extract<TeamMessage, { kind: "begin" }> | undefined;

parentPort?.on("message", (message: TeamMessage) => {
  if (message.kind === "begin") {
    begun = message;
    return;
  }
  if (!begun) throw new Error("begin comes first");
  sumHistograms(begun.arrays, message.tasks, begun.answers, begun.statistics, begun.gini, message.once);
  parentPort?.postMessage("done");
});

parentPort?.postMessage("ready");
