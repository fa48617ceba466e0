import type { Result } from "../../core/problem";
import { readSource, type Source } from "../../core/pipeline/source";
import { answerQuestions } from "./answering";

answerQuestions<string, Result<Source>>((text) => readSource(text));
