import type { Judgement } from "@/core/evaluate/judgement";
import type { Importance } from "@/core/explain/importance";
import { formatNumber } from "@/core/format/numbers";
import type { Model } from "@/core/learn/model";
import type { FeatureRow, Task } from "@/core/learn/task";
import { outputNames } from "@/core/plan/score";
import type { TableReference } from "@/core/relation/relation";
import { explainInTime } from "../threads/explaining";
import { explainedRows, explainQuestion, judgedExplanation, type ExplainedRows } from "./explained-rows";
import type { Workshop } from "./workshop";

/** Columns of which importance and dependence are worked out with a training; all others can be asked for afterwards. */
const MOST = { importances: 60, dependences: 12 };
/** How long that may take, in seconds. */
const EXPLAIN_SECONDS = 60;

function usualOf(rows: readonly FeatureRow[], name: string): string | null {
  const counts = new Map<string | null, number>();
  for (const row of rows)
    counts.set(row[name] as string | null, (counts.get(row[name] as string | null) ?? 0) + 1);
  return [...counts].reduce<readonly [string | null, number]>(
    (most, count) => (count[1] > most[1] ? count : most),
    [null, 0],
  )[0];
}

function meanOf(rows: readonly FeatureRow[], name: string): number {
  const values = rows.flatMap((row) =>
    typeof row[name] === "number" && Number.isFinite(row[name]) ? [row[name]] : [],
  );
  return values.length === 0 ? 0 : values.reduce((sum, value) => sum + value, 0) / values.length;
}

/** What a row of everyday values looks like, which reasons are measured against. */
const backgroundOf = ({ rows, numbers, categories }: ExplainedRows): Judgement["background"] => ({
  means: Object.fromEntries(numbers.map((name) => [name, meanOf(rows, name)])),
  usual: Object.fromEntries(categories.map((name) => [name, usualOf(rows, name)])),
});

/** Importance, dependence, and the usual row that reasons are measured against. */
export async function explainModel(
  shop: Workshop,
  holdout: TableReference,
  model: Model,
  task: Task,
): Promise<Pick<Judgement, "importance" | "importanceOf" | "dependence" | "background">> {
  return shop.recorder.doing("explain the model", async () => {
    const judged = { place: holdout, outputs: outputNames(task) };
    const explained = await explainedRows(shop.session, judged, shop.plan.file.roles.key, model);
    const question = explainQuestion(model, task, explained, MOST);
    const explanation = await explainInTime({ question, seconds: EXPLAIN_SECONDS }, shop.recorder);
    const columns = explained.numbers.length + explained.categories.length;
    return {
      value: { ...judgedExplanation(question, explanation), background: backgroundOf(explained) },
      rows: explained.rows.length,
      detail: describeImportance(explanation.importance, columns),
    };
  });
}

/** What was found, in a line: with how many of all features were looked at. */
function describeImportance(importance: readonly Importance[], all: number): string {
  if (importance.length === 0) return "no features are used";
  const looked =
    importance.length < all
      ? `; of ${formatNumber(all)} features the ${formatNumber(importance.length)} that move predictions most were measured`
      : "";
  return `${importance[0]!.column} matters most${looked}`;
}
