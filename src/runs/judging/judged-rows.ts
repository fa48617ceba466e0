import { formatNumber } from "@/core/format/numbers";
import { predict } from "@/core/learn/model";
import { columnsRead } from "@/core/learn/model";
import { className, type FeatureRow, type Task } from "@/core/learn/task";
import { neighboursOf, reasonsFor, type ExplainedRow } from "@/core/explain/reasons";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { problem, ProblemError } from "@/core/problem";
import { hidden } from "@/core/sql/hidden";
import { quoteIdentifier, quoteText } from "@/core/sql/quote";
import type { ModelRow } from "@/store/models";
import type { Warehouse } from "@/warehouse/warehouse";
import { featureRow } from "../training/scored-rows";
import { columnOf, type JudgedVersion } from "./judged-table";

/** How wrong a row was told, beside the columns that people know; and the judged rows, by whose values rows are put in order. */
const [WRONG, JUDGED] = [hidden("wrong"), hidden("judged")];

export type RowChoice = "all" | "wrong" | "borderline";

/** How wrong a row was told: distance of the probability from the answer, error of a number, or what is missing to certainty of the right class. */
function wrongSql({ task, outputs }: JudgedVersion): string {
  const target = quoteIdentifier(TARGET_COLUMN);
  if (task.kind !== "classes") return `abs(${target} - ${quoteIdentifier(outputs[0]!)})`;
  return `1 - CASE ${target} ${outputs.map((name, code) => `WHEN ${code} THEN ${quoteIdentifier(name)}`).join(" ")} ELSE 0 END`;
}

/** How undecided: small where two answers are about as likely. */
function undecidedSql({ task, outputs }: JudgedVersion): string | undefined {
  if (task.kind === "number") return undefined;
  if (task.kind === "binary") return `abs(${quoteIdentifier(outputs[0]!)} - 0.5)`;
  const array = `ARRAY[${outputs.map(quoteIdentifier).join(", ")}]`;
  return `(SELECT max(p) - (array_agg(p ORDER BY p DESC))[2] FROM unnest(${array}) AS p)`;
}

/** What rows are put in order by before their key. */
function firstBy(judged: JudgedVersion, choice: RowChoice): readonly string[] {
  if (choice === "all") return [];
  const undecided = choice === "borderline" ? undecidedSql(judged) : undefined;
  return [undecided ?? `${wrongSql(judged)} DESC`];
}

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
  const conditions = [`${quoteIdentifier(TARGET_COLUMN)} IS NOT NULL`];
  if (segment) {
    const column = quoteIdentifier(columnOf(judged, segment.column).name);
    conditions.push(
      segment.value === "" ? `${column} IS NULL` : `${column}::text = ${quoteText(segment.value)}`,
    );
  }
  const order = [
    ...firstBy(judged, choice),
    ...judged.key.map((name) => `${JUDGED}.${quoteIdentifier(name)}`),
  ];
  const names = judged.columns.map((column) => column.name);
  const originals = [...judged.originals].map(([column, { name }]) => ({ column, name }));
  const items = [
    ...originals.map(({ name }) => `${quoteIdentifier(name)}::text AS ${quoteIdentifier(name)}`),
    ...names.map((name) => `${quoteIdentifier(name)}::text AS ${quoteIdentifier(name)}`),
    ...judged.outputs.map(quoteIdentifier),
    quoteIdentifier(TARGET_COLUMN),
    `${wrongSql(judged)} AS ${WRONG}`,
  ];
  const rows = await warehouse.read(
    `SELECT ${items.join(", ")} FROM ${judged.table} AS ${JUDGED} WHERE ${conditions.join(" AND ")} ORDER BY ${order.join(", ")} LIMIT ${Math.trunc(limit)} OFFSET ${Math.trunc(offset)}`,
  );
  const { task, outputs } = judged;
  return {
    columns: [
      ...names.filter((name) => !judged.key.includes(name)),
      ...originals.flatMap(({ column }) => (names.includes(column) ? [] : [column])),
    ],
    classes: classesOf(task),
    rows: rows.map((row) => {
      const values = outputs.map((name) => Number(row[name]));
      const best = values.reduce((most, value, index) => (value > values[most]! ? index : most), 0);
      return {
        key: Object.fromEntries(judged.key.map((name) => [name, String(row[name])])),
        answer:
          task.kind === "number"
            ? formatNumber(Number(row[TARGET_COLUMN]))
            : className(task, Number(row[TARGET_COLUMN])),
        prediction:
          task.kind === "classes"
            ? `${className(task, best)} ${formatNumber(values[best]!)}`
            : formatNumber(values[0]),
        wrong: Number(row[WRONG]),
        probabilities: probabilitiesOf(task, values),
        values: Object.fromEntries(names.map((name) => [name, (row[name] ?? null) as string | null])),
        originals: Object.fromEntries(
          originals.map(({ column, name }) => [column, (row[name] ?? null) as string | null]),
        ),
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
  const conditions = judged.key.map(
    (name) => `${quoteIdentifier(name)}::text = ${quoteText(key[name] ?? "")}`,
  );
  const [row] = await warehouse.read(
    `SELECT * FROM ${judged.table} WHERE ${conditions.join(" AND ")} LIMIT 1`,
  );
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
