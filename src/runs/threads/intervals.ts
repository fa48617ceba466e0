import { availableParallelism } from "node:os";
import type { Worker } from "node:worker_threads";
import {
  intervalsFrom,
  intervalsOf,
  noIntervals,
  SAMPLES,
  type Draws,
  type IntervalAnswer,
  type IntervalQuestion,
} from "@/core/evaluate/bootstrap";
import type { DrawAnswer, DrawMessage } from "./interval-thread";
import { startThread } from "./thread";

/** Rows times samples that take a few milliseconds: less than it takes to hand them over. */
const SMALL = 1_500_000;

interface Waiting {
  readonly resolve: (draws: Draws) => void;
  readonly reject: (error: Error) => void;
}

/** One thread that draws samples, started when first needed and kept; it does not keep the process alive. */
class DrawingThread {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private next = 0;

  draw(question: IntervalQuestion, from: number, until: number): Promise<Draws> {
    const thread = (this.thread ??= this.start());
    const id = (this.next += 1);
    // The process waits for an answer, but not for a thread that has nothing to do.
    thread.ref();
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      thread.postMessage({ id, question, from, until } satisfies DrawMessage);
    });
  }

  private start(): Worker {
    const thread = startThread("interval-thread");

    thread.on("message", (answer: DrawAnswer) => {
      const asked = this.waiting.get(answer.id);
      this.waiting.delete(answer.id);
      if (this.waiting.size === 0) thread.unref();
      if ("draws" in answer) asked?.resolve(answer.draws);
      else asked?.reject(new Error(answer.message));
    });
    // A thread that died is replaced by the next question.
    const gone = (error: Error): void => {
      if (this.thread === thread) this.thread = undefined;
      for (const each of this.waiting.values()) each.reject(error);
      this.waiting.clear();
    };
    thread.on("error", gone);
    thread.on("exit", () => gone(new Error("the thread that draws samples has ended")));
    return thread;
  }
}

const threads = Array.from({ length: Math.min(availableParallelism(), 8) }, () => new DrawingThread());

/** Confidence intervals by the bootstrap, drawn in threads beside the process; the same for the same seed, however many there are. */
export async function figureIntervals(question: IntervalQuestion): Promise<IntervalAnswer> {
  if (question.scored[0].answers.length * SAMPLES <= SMALL) return intervalsOf(question);
  const because = noIntervals(question);
  if (because !== undefined) return { intervals: {}, because };
  const share = Math.ceil(SAMPLES / threads.length);
  const parts = await Promise.all(
    threads.map((thread, index) =>
      thread.draw(question, index * share, Math.min(SAMPLES, (index + 1) * share)),
    ),
  );
  return { intervals: intervalsFrom(parts, question.level) };
}
