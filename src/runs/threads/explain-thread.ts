import { parentPort } from "node:worker_threads";
import { explainRows, type Explanation } from "../../core/explain/explain-rows";
import type { TimedQuestion } from "./explaining";

export type ExplainAnswer = { readonly explanation: Explanation } | { readonly message: string };

const port = parentPort;
const say = (answer: ExplainAnswer): void => port?.postMessage(answer);

port?.on("message", ({ question, seconds }: TimedQuestion) => {
  const started = performance.now();
  explainRows(question, (share) =>
    Promise.resolve(performance.now() - started < share * seconds * 1000),
  ).then(
    (explanation) => say({ explanation }),
    (error: unknown) => say({ message: error instanceof Error ? error.message : String(error) }),
  );
});
