import { explainRows, type Explanation } from "../../core/explain/explain-rows";
import { answerQuestions } from "./answering";
import type { TimedQuestion } from "./explaining";

answerQuestions<TimedQuestion, Explanation>(({ question, seconds }, goesOn) => {
  const started = performance.now();
  return explainRows(question, (share) => {
    goesOn();
    return Promise.resolve(performance.now() - started < share * seconds * 1000);
  });
});
