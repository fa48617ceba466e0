import { figureMaker, type ScoredRows } from "@/core/evaluate/figures";
import { judgedFigures, type JudgedFigures, type JudgedQuestion } from "@/core/evaluate/judged-figures";
import type { Figures } from "@/core/evaluate/metrics";
import type { Task } from "@/core/learn/task";
import type { FigureQuestion } from "./figure-thread";
import { KeptThread } from "./kept-thread";

/** Figures of fewer rows take a few hundredths of a second: less than it takes to hand them over. */
const SMALL = 20_000;

const thread = new KeptThread<FigureQuestion, JudgedFigures | Figures>("figure-thread");

/** Figures of scored rows, worked out beside the process where there are many. */
export async function figuresOf(kind: Task["kind"], scored: ScoredRows): Promise<Figures> {
  if (scored.answers.length <= SMALL) return figureMaker(kind, scored)(undefined);
  return (await thread.ask({ kind, scored: onlyScores(scored) })) as Figures;
}

/** All that is said of judged rows, worked out beside the process where there are many. */
export async function judgedFiguresOf(question: JudgedQuestion, goesOn: () => void): Promise<JudgedFigures> {
  if (question.scored.answers.length <= SMALL) return judgedFigures(question);
  const asked = { ...question, scored: onlyScores(question.scored) };
  return (await thread.ask(asked, goesOn)) as JudgedFigures;
}

/** What is not read is not copied to the thread. */
const onlyScores = ({ outputs, answers, weights }: ScoredRows): ScoredRows => ({ outputs, answers, weights });
