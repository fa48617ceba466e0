import type { Judgement } from "@/core/evaluate/judgement";
import { metricsFor } from "@/core/evaluate/metrics";
import { dependence } from "@/core/explain/dependence";
import { mostInfluential, permutationImportance, type Importance } from "@/core/explain/importance";
import { formatNumber } from "@/core/format/numbers";
import { compileModel, valuesOf } from "@/core/learn/compiled";
import { columnsRead, type Model } from "@/core/learn/model";
import type { FeatureRow, Task } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier } from "@/core/sql/quote";
import { breathe } from "./fit";
import { answered } from "./judge";
import { featureRow } from "./scored-rows";
import type { Workshop } from "./workshop";

/** Holdout rows that importances are measured on, and over which dependences are averaged. */
const [IMPORTANCE_ROWS, DEPENDENCE_ROWS] = [1500, 150];
/** A model of very many columns takes longer for each row, so that fewer rows have to do. */
const [MOST_VALUES, FEWEST_ROWS] = [150_000, 200];
/** Columns of which importance and dependence are worked out at most. */
const [MOST_IMPORTANCES, MOST_DEPENDENCES] = [60, 12];

/** Some rows of a judged table with the features of a model, the same every time. */
async function sampleRows(
  shop: Workshop,
  holdout: TableReference,
  numbers: readonly string[],
  categories: readonly string[],
  most: number,
): Promise<{ readonly rows: readonly FeatureRow[]; readonly answers: Float64Array }> {
  const names = [...numbers, ...categories, TARGET_COLUMN].map(quoteIdentifier).join(", ");
  const key = shop.plan.file.roles.key.map((name) => `${quoteIdentifier(name)}::text`).join(" || ',' || ");
  const found = await shop.session.run(
    `SELECT ${names} FROM ${answered(holdout)} AS judged ORDER BY md5(${key}) LIMIT ${most}`,
    "some holdout rows to explain the model with",
  );
  shop.session.leave({ explained: found.length });
  return {
    rows: found.map((row) => featureRow(row, numbers, categories)),
    answers: Float64Array.from(found, (row) => Number(row[TARGET_COLUMN])),
  };
}

function usualOf(rows: readonly FeatureRow[], name: string): string | null {
  const counts = new Map<string | null, number>();
  for (const row of rows)
    counts.set(row[name] as string | null, (counts.get(row[name] as string | null) ?? 0) + 1);
  return [...counts].reduce<readonly [string | null, number]>(
    (most, each) => (each[1] > most[1] ? each : most),
    [null, 0],
  )[0];
}

function meanOf(rows: readonly FeatureRow[], name: string): number {
  const values = rows.flatMap((row) =>
    typeof row[name] === "number" && Number.isFinite(row[name]) ? [row[name]] : [],
  );
  return values.length === 0 ? 0 : values.reduce((sum, each) => sum + each, 0) / values.length;
}

/** Importance, dependence, and the usual row that reasons are measured against. */
export async function explainModel(
  shop: Workshop,
  holdout: TableReference,
  model: Model,
  task: Task,
): Promise<Pick<Judgement, "importance" | "importanceOf" | "dependence" | "background">> {
  const read = columnsRead(model);
  const numbers = [...read.numbers];
  const categories = [...read.categories];
  const [metric] = metricsFor(task.kind);
  return shop.recorder.doing("explain the model", async () => {
    const { rows, answers } = await sampleRows(
      shop,
      holdout,
      numbers,
      categories,
      Math.min(
        IMPORTANCE_ROWS,
        Math.max(FEWEST_ROWS, Math.floor(MOST_VALUES / Math.max(1, numbers.length + categories.length))),
      ),
    );
    const background = {
      means: Object.fromEntries(numbers.map((name) => [name, meanOf(rows, name)])),
      usual: Object.fromEntries(categories.map((name) => [name, usualOf(rows, name)])),
    };
    const compiled = compileModel(model);
    const values = rows.map((row) => valuesOf(row, compiled.columns));
    const rest = breathe(shop);
    const measured = { task, rows: values, answers, metric: metric!, seed: 5 };
    const places = await mostInfluential(compiled, measured, MOST_IMPORTANCES, rest);
    const importance = await permutationImportance(compiled, measured, places, rest);
    const dependences: Judgement["dependence"] = [];
    for (const { column } of importance.slice(0, MOST_DEPENDENCES)) {
      const found = dependence(compiled, task, values.slice(0, DEPENDENCE_ROWS), column);
      dependences.push({
        column,
        points: found.points.map((each) => ({ ...each, outputs: [...each.outputs] })),
      });
      await rest();
    }
    return {
      value: {
        importance: [...importance],
        importanceOf: { metric: metric!, rows: rows.length, columns: compiled.columns.length },
        dependence: dependences,
        background,
      },
      rows: rows.length,
      detail: describeImportance(importance, compiled.columns.length),
    };
  });
}

/** What was found, in a line: with how many of all features were looked at. */
function describeImportance(importance: readonly Importance[], all: number): string {
  if (importance.length === 0) return "no column is read";
  const looked =
    importance.length < all
      ? `; of ${formatNumber(all)} features the ${formatNumber(importance.length)} that move predictions most were measured`
      : "";
  return `${importance[0]!.column} matters most${looked}`;
}
