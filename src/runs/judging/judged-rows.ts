import { formatNumber } from "@/core/format/numbers";
import { featureRow } from "@/core/learn/feature-row";
import { predict } from "@/core/learn/compiled";
import { columnsRead } from "@/core/learn/model-kinds";
import { className, type FeatureRow, type Task } from "@/core/learn/task";
import { neighboursOf, reasonsFor } from "@/core/explain/reasons";
import type { ExplainedRow } from "@/core/explain/explained-row";
import { problem, ProblemError } from "@/core/problem";
import { judgedRowQuestion, pageQuestion, type RowChoice } from "@/core/questions/judged/pages";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { columnOf, type JudgedVersion } from "./judged-table";

export interface JudgedRow {
  readonly key: Readonly<Record<string, string>>;
  readonly answer: string;
  readonly prediction: string;
  readonly wrong: number;
  /** Of every class, in the order of the page's classes; none of numbers. */
  readonly probabilities: readonly number[];
  readonly values: Readonly<Record<string, string | null>>;
  /** What columns held before steps changed them. */
  readonly originals: Readonly<Record<string, string | null>>;
}

export interface JudgedPage {
  readonly columns: readonly string[];
  /** Of yes and no, and of several classes. */
  readonly classes: readonly string[];
  readonly rows: readonly JudgedRow[];
}

/** Rows of the scored holdout: all, those surely wrong first, or the undecided; on request only one segment of a column. */
export async function judgedRows(
  warehouse: Warehouse,
  judged: JudgedVersion,
  choice: RowChoice,
  segment: { readonly column: string; readonly value: string } | undefined,
  offset: number,
  limit: number,
): Promise<JudgedPage> {
  const names = judged.columns.map((column) => column.name);
  const originals = [...judged.originals].map(([column, { name }]) => ({ column, name }));
  const rows = await warehouse.ask(
    pageQuestion(judged, {
      task: judged.task,
      key: judged.key,
      columns: [...originals.map(({ name }) => name), ...names],
      choice,
      segment: segment && { ...segment, column: columnOf(judged, segment.column).name },
      offset,
      rows: limit,
    }),
  );
  const { task } = judged;
  return {
    columns: [
      ...names.filter((name) => !judged.key.includes(name)),
      ...originals.flatMap(({ column }) => (names.includes(column) ? [] : [column])),
    ],
    classes: classesOf(task),
    rows: rows.map(({ texts, outputs, target, error }) => {
      const best = outputs.reduce((most, value, index) => (value > outputs[most]! ? index : most), 0);
      return {
        key: Object.fromEntries(judged.key.map((name) => [name, String(texts[name])])),
        answer: task.kind === "number" ? formatNumber(target) : className(task, target),
        prediction:
          task.kind === "classes"
            ? `${className(task, best)} ${formatNumber(outputs[best]!)}`
            : formatNumber(outputs[0]),
        wrong: error,
        probabilities: probabilitiesOf(task, outputs),
        values: Object.fromEntries(names.map((name) => [name, texts[name] ?? null])),
        originals: Object.fromEntries(originals.map(({ column, name }) => [column, texts[name] ?? null])),
      };
    }),
  };
}

function classesOf(task: Task): readonly string[] {
  if (task.kind === "classes") return task.classes;
  return task.kind === "binary" ? [className(task, 1), className(task, 0)] : [];
}

function probabilitiesOf({ kind }: Task, outputs: readonly number[]): readonly number[] {
  if (kind === "classes") return outputs;
  return kind === "binary" ? [outputs[0]!, 1 - outputs[0]!] : [];
}

export interface RowReasons {
  readonly explained: ExplainedRow;
  /** What the reasons add up to. */
  readonly predictor: number;
  readonly prediction: readonly number[];
  /** The class that is explained, for several classes. */
  readonly of?: string;
  readonly values: FeatureRow;
  readonly neighbours?: readonly {
    readonly distance: number;
    readonly answer: string;
    readonly values: FeatureRow;
  }[];
}

/** Why one row of the holdout was predicted as it was. */
export async function rowReasons(
  warehouse: Warehouse,
  judged: JudgedVersion,
  key: Readonly<Record<string, string>>,
): Promise<RowReasons> {
  const { numbers, categories } = columnsRead(judged.model.model);
  const own = Object.fromEntries(judged.key.map((name) => [name, key[name] ?? ""]));
  const row = await warehouse.ask(judgedRowQuestion(judged, [...numbers, ...categories], own));
  if (!row) throw new ProblemError(problem("unknown_row", "Row not found among the scored rows."));
  return reasonsOfRow(judged.model, judged.task, row);
}

/** Why a row of features, as the driver gives it, is predicted as it is by a version. */
export function reasonsOfRow(
  version: Pick<ModelRow, "model" | "judgement">,
  task: Task,
  row: Readonly<Record<string, unknown>>,
): RowReasons {
  const { model } = version;
  const read = columnsRead(model);
  const values = featureRow(row, read.numbers, read.categories);
  const prediction = predict(model, values);
  const output = prediction.reduce((most, value, index) => (value > prediction[most]! ? index : most), 0);
  const background = version.judgement?.background ?? { means: {}, usual: {} };
  const explained = reasonsFor(model, values, output, background);
  return {
    explained,
    predictor: explained.parts.reduce((sum, part) => sum + part.value, explained.base),
    prediction,
    values,
    ...(task.kind === "classes" ? { of: className(task, output) } : {}),
    ...(model.algorithm === "nearest_neighbours"
      ? {
          neighbours: neighboursOf(model, values).map((neighbour) => ({
            ...neighbour,
            answer:
              task.kind === "number" ? formatNumber(neighbour.answer) : className(task, neighbour.answer),
          })),
        }
      : {}),
  };
}
