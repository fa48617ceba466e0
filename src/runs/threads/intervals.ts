import { availableParallelism } from "node:os";
import {
  intervalsFrom,
  intervalsOf,
  noIntervals,
  SAMPLES,
  type Draws,
  type IntervalAnswer,
  type IntervalQuestion,
} from "@/core/evaluate/bootstrap";
import type { DrawQuestion } from "./interval-thread";
import { KeptThread } from "./kept-thread";

/** Rows times samples that take a few milliseconds: less than it takes to hand them over. */
const SMALL = 1_500_000;

const threads = Array.from(
  { length: Math.min(availableParallelism(), 8) },
  () => new KeptThread<DrawQuestion, Draws>("interval-thread"),
);

/**
 * Confidence intervals by the bootstrap, drawn in threads beside the process; the same for the same seed, however many there are.
 * @param goesOn called now and then while samples are drawn
 */
export async function figureIntervals(
  question: IntervalQuestion,
  goesOn?: () => void,
): Promise<IntervalAnswer> {
  if (question.scored[0].answers.length * SAMPLES <= SMALL) return intervalsOf(question);
  const because = noIntervals(question);
  if (because !== undefined) return { intervals: {}, because };
  const share = Math.ceil(SAMPLES / threads.length);
  const parts = await Promise.all(
    threads.map((thread, index) =>
      thread.ask({ question, from: index * share, until: Math.min(SAMPLES, (index + 1) * share) }, goesOn),
    ),
  );
  return { intervals: intervalsFrom(parts, question.level) };
}
