import type { Worker } from "node:worker_threads";
import type { Asked, Said } from "./answering";
import { startThread } from "./thread";

interface Waiting<Answer> {
  readonly resolve: (answer: Answer) => void;
  readonly reject: (error: Error) => void;
  readonly goesOn: (() => void) | undefined;
}

/** A thread that answers questions, started when first needed and kept; it does not keep the process alive. */
export class KeptThread<Question, Answer> {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting<Answer>>();
  private next = 0;

  /** @param script one of this folder's, named without its ending */
  constructor(private readonly script: string) {}

  /** @param goesOn called now and then while the answer is worked out */
  ask(question: Question, goesOn?: () => void): Promise<Answer> {
    const thread = (this.thread ??= this.start());
    const id = (this.next += 1);
    // The process waits for an answer, but not for a thread that has nothing to do.
    thread.ref();
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject, goesOn });
      thread.postMessage({ id, question } satisfies Asked<Question>);
    });
  }

  /** Ends the thread; what waits for an answer gets none. The next question starts another. */
  async end(): Promise<void> {
    await this.thread?.terminate();
  }

  private start(): Worker {
    const thread = startThread(this.script);
    thread.on("message", (said: Said<Answer>) => this.take(thread, said));
    // A thread that died is replaced by the next question.
    const gone = (error: Error): void => {
      if (this.thread !== thread) return;
      this.thread = undefined;
      for (const { reject } of this.waiting.values()) reject(error);
      this.waiting.clear();
    };
    thread.on("error", gone);
    thread.on("exit", () => gone(new Error("the thread that computes has ended")));
    return thread;
  }

  private take(thread: Worker, said: Said<Answer>): void {
    const asked = this.waiting.get(said.id);
    if ("goesOn" in said) {
      asked?.goesOn?.();
      return;
    }
    this.waiting.delete(said.id);
    if (this.waiting.size === 0) thread.unref();
    if ("answer" in said) asked?.resolve(said.answer);
    else asked?.reject(new Error(said.message));
  }
}
