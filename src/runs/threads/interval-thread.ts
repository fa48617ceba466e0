import { drawFigures, type Draws, type IntervalQuestion } from "../../core/evaluate/bootstrap";
import { answerQuestions } from "./answering";

/** Samples that a thread is to draw. */
export interface DrawQuestion {
  readonly question: IntervalQuestion;
  readonly from: number;
  readonly until: number;
}

answerQuestions<DrawQuestion, Draws>(({ question, from, until }, goesOn) =>
  drawFigures(question, from, until, goesOn),
);
