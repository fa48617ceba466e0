import { compileModel } from "../learn/compiled";
import type { Model } from "../learn/model";
import { dependence, type Dependence } from "./dependence";
import { mostInfluential, permutationImportance, type Importance, type ImportanceRows } from "./importance";

/** What is to be found out about a model, over rows that it has not seen. */
export interface ExplainQuestion extends ImportanceRows {
  readonly model: Model;
  /** Columns of which importance, and of which dependence are worked out, at the most. */
  readonly importances: number;
  readonly dependences: number;
}

export interface Explanation {
  readonly importance: readonly Importance[];
  readonly dependence: readonly Dependence[];
}

/** Rows over which a dependence is averaged. */
const DEPENDENCE_ROWS = 150;
/** Share of the time that importances may take; dependences have the rest. */
const IMPORTANCE_TIME = 0.75;

/**
 * Importances of the columns that move predictions most, and dependences on those of them that matter most.
 * @param timeLeft whether less than a share of the time has passed; asked after each column
 */
export async function explainRows(
  question: ExplainQuestion,
  timeLeft: (share: number) => Promise<boolean>,
): Promise<Explanation> {
  const { task, rows } = question;
  const model = compileModel(question.model);
  const goOn = (): Promise<boolean> => timeLeft(IMPORTANCE_TIME);
  const places = await mostInfluential(model, question, question.importances, goOn);
  const importance = await permutationImportance(model, question, places, goOn);
  const found: Dependence[] = [];
  for (const { column } of importance.slice(0, question.dependences)) {
    found.push(dependence(model, task, rows.slice(0, DEPENDENCE_ROWS), column));
    if (!(await timeLeft(1))) break;
  }
  return { importance, dependence: found };
}
