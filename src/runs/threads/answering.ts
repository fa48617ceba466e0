import { parentPort } from "node:worker_threads";

/** A question to a thread, with a number by which its answer is known. */
export interface Asked<Question> {
  readonly id: number;
  readonly question: Question;
}

/** What a thread says: that it goes on, its answer, or why there is none. */
export type Said<Answer> =
  | { readonly id: number; readonly goesOn: true }
  | { readonly id: number; readonly answer: Answer }
  | { readonly id: number; readonly message: string };

/**
 * Lets this thread answer questions, one after the other.
 * @param answer is given a function to call now and then while it works, which tells whoever waits that it does
 */
export function answerQuestions<Question, Answer>(
  answer: (question: Question, goesOn: () => void) => Answer | Promise<Answer>,
): void {
  const port = parentPort;
  const say = (said: Said<Answer>): void => port?.postMessage(said);
  const find = async ({ id, question }: Asked<Question>): Promise<void> => {
    try {
      say({ id, answer: await answer(question, () => say({ id, goesOn: true })) });
    } catch (error) {
      say({ id, message: error instanceof Error ? error.message : String(error) });
    }
  };
  port?.on("message", (asked: Asked<Question>) => void find(asked));
}
