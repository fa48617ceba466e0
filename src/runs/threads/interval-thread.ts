import { parentPort } from "node:worker_threads";
import { drawFigures, type Draws, type IntervalQuestion } from "../../core/evaluate/bootstrap";

/** Samples that a thread is to draw. */
export interface DrawMessage {
  readonly id: number;
  readonly question: IntervalQuestion;
  readonly from: number;
  readonly until: number;
}
export type DrawAnswer =
  { readonly id: number; readonly draws: Draws } | { readonly id: number; readonly message: string };

const port = parentPort;
port?.on("message", ({ id, question, from, until }: DrawMessage) => {
  try {
    port.postMessage({ id, draws: drawFigures(question, from, until) } satisfies DrawAnswer);
  } catch (error) {
    port.postMessage({
      id,
      message: error instanceof Error ? error.message : String(error),
    } satisfies DrawAnswer);
  }
});
