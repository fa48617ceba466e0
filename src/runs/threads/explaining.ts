import { explainRows, type ExplainQuestion, type Explanation } from "@/core/explain/explain-rows";
import { predictAll, ROUNDS } from "@/core/explain/importance";
import { compileModel } from "@/core/learn/compiled";
import type { Pace } from "../pace";
import { KeptThread } from "./kept-thread";

export interface TimedQuestion {
  readonly question: ExplainQuestion;
  /** After so long nothing further is measured; what is there by then is the answer. */
  readonly seconds: number;
  /** What takes fewer milliseconds is done at once. */
  readonly short?: number;
}

/** What takes less than this is done at once, unless asked otherwise: handing it over takes as long. */
const SHORT_MILLISECONDS = 2000;
/** Rows whose prediction is timed, after as many have made it ready. */
const TIMED_ROWS = 20;
/** How often it is asked whether to stop, while a thread works. */
const ASKED_EVERY = 250;

/** About how long all importances take. */
function estimatedMilliseconds({ model, task, rows, importances }: ExplainQuestion): number {
  const compiled = compileModel(model);
  const timed = rows.slice(0, TIMED_ROWS);
  predictAll(compiled, task, timed);
  const started = performance.now();
  predictAll(compiled, task, timed);
  const once = (performance.now() - started) / Math.max(1, timed.length);
  return once * rows.length * ROUNDS * Math.min(importances, compiled.columns.length);
}

/**
 * Explains a model: at once where that is a matter of a moment, else in a thread, so that the process goes on with what else it does.
 */
export async function explainInTime(asked: TimedQuestion, pace: Pace): Promise<Explanation> {
  if (estimatedMilliseconds(asked.question) < (asked.short ?? SHORT_MILLISECONDS))
    return explainRows(asked.question, async () => {
      await pace.breathe();
      return true;
    });
  const thread = new KeptThread<TimedQuestion, Explanation>("explain-thread");
  let stop: NodeJS.Timeout | undefined;
  const givenUp = new Promise<never>((_resolve, reject) => {
    stop = setInterval(() => {
      try {
        pace.stopIfAsked();
      } catch (error) {
        reject(error);
      }
    }, ASKED_EVERY);
  });
  try {
    return await Promise.race([thread.ask(asked, pace.goesOn), givenUp]);
  } finally {
    clearInterval(stop);
    await thread.end();
  }
}
