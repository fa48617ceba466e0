import { figureMaker } from "../../core/evaluate/figures";
import { judgedFigures, type JudgedFigures, type JudgedQuestion } from "../../core/evaluate/judged-figures";
import type { Figures } from "../../core/evaluate/metrics";
import { answerQuestions } from "./answering";

/** All that is said of judged rows, or their figures alone. */
export type FigureQuestion = JudgedQuestion | Omit<JudgedQuestion, "usual">;

answerQuestions<FigureQuestion, JudgedFigures | Figures>((question, goesOn) =>
  "usual" in question
    ? judgedFigures(question, goesOn)
    : figureMaker(question.kind, question.scored)(undefined),
);
