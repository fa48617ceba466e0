import type { ScoredRows } from "@/core/evaluate/figures";
import { compileModel, valuesOf } from "@/core/learn/compiled";
import type { Model } from "@/core/learn/model";
import { outputsOf, type FeatureRow, type Task } from "@/core/learn/task";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import type { DeliveredReason } from "@/core/explain/reasons";
import { outputColumn, REASONS_COLUMN } from "@/core/plan/score";
import { PLACE_COLUMN } from "@/core/plan/score-pieces";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { RowReader } from "@/warehouse/stream-frame";
import type { WarehouseSession } from "@/warehouse/warehouse";
import { inStretches, type Pace } from "../pace";

/** Rows taken at a time where a model scores here instead of in a statement. */
const PAGE = 5000;

/** What comes out with predictions and answers. */
export interface ScoreColumns {
  /** A column by which rows belong together: its values come as numbers that tell them apart. */
  readonly group?: string | undefined;
  /** The column that says how much a row counts. */
  readonly weight?: string | undefined;
}

/**
 * Reads predictions and answers of scored rows; nothing else leaves the warehouse.
 * @param source quoted table, or a SELECT in parentheses
 */
export async function readScores(
  session: WarehouseSession,
  source: string,
  task: Task,
  { group, weight }: ScoreColumns,
): Promise<ScoredRows & { readonly groups?: Float64Array }> {
  const outputs = outputsOf(task);
  const further = [
    ...(group === undefined
      ? []
      : [`dense_rank() OVER (ORDER BY ${quoteIdentifier(group)})::double precision`]),
    ...(weight === undefined ? [] : [`coalesce(${quoteIdentifier(weight)}::double precision, 0)`]),
  ];
  const [counted] = await session.run(
    `SELECT count(*)::integer AS rows FROM ${source} AS scored`,
    "count scored rows",
  );
  const rows = Number(counted?.["rows"] ?? 0);
  const columns = Array.from({ length: outputs + 1 + further.length }, () => new Float64Array(rows));
  const reader = new RowReader(columns, [], rows);
  const items = [
    ...Array.from({ length: outputs }, (_, index) => quoteIdentifier(outputColumn(index))),
    quoteIdentifier(TARGET_COLUMN),
    ...further,
  ];
  const sql = `SELECT ${items.join(", ")} FROM ${source} AS scored`;
  const started = performance.now();
  await session.copyOut(`COPY (${sql}) TO STDOUT (FORMAT binary)`, reader.take);
  session.note({
    sql,
    purpose: "read predictions and targets",
    milliseconds: performance.now() - started,
    rows,
  });
  session.leave({ judged: rows, values: rows * items.length });
  return {
    outputs: columns.slice(0, outputs),
    answers: columns[outputs]!,
    ...(group === undefined ? {} : { groups: columns[outputs + 1]! }),
    ...(weight === undefined ? {} : { weights: columns.at(-1)! }),
  };
}

/** The values of a model's features in a row as the driver gives it. */
export function featureRow(
  row: Readonly<Record<string, unknown>>,
  numbers: Iterable<string>,
  categories: Iterable<string>,
): FeatureRow {
  const found: Record<string, number | string | null> = {};
  for (const name of numbers) {
    const value = row[name];
    // What is not a number counts as larger than every number, as PostgreSQL orders it.
    const ordered = Number.isNaN(Number(value)) ? Infinity : Number(value);
    found[name] = value === null || value === undefined ? null : ordered;
  }
  for (const name of categories)
    found[name] = row[name] === null || row[name] === undefined ? null : String(row[name]);
  return found;
}

/** Where rows are scored here. */
export interface ScoreWork {
  /** The rows; the table gets a column that numbers them. */
  readonly inputs: TableReference;
  /** The table that is made of them and the numbers of their predictions. */
  readonly outputs: TableReference;
  readonly pace: Pace;
  /** Reasons that are told beside a prediction. */
  readonly explain?:
    ((row: FeatureRow, prediction: ArrayLike<number>) => readonly DeliveredReason[]) | undefined;
}

/** Scores a table of rows with a model too large for a statement: rows come here page by page, predictions go back into another table. */
export async function scoreHere(
  session: WarehouseSession,
  { inputs, outputs, pace, explain }: ScoreWork,
  model: Model,
  columns: {
    readonly task: Task;
    readonly numbers: readonly string[];
    readonly categories: readonly string[];
  },
): Promise<void> {
  const { task } = columns;
  const numbered = quoteTable(inputs);
  const [counted] = await session.run(
    `SELECT count(*)::integer AS rows FROM ${numbered}`,
    "count the rows to score",
  );
  const count = Number(counted?.["rows"] ?? 0);
  await session.run(
    `ALTER TABLE ${numbered} ADD COLUMN ${PLACE_COLUMN} bigint GENERATED ALWAYS AS IDENTITY`,
    "number the rows to score",
  );
  const compiled = compileModel(model);
  const names = Array.from({ length: outputsOf(task) }, (_, index) => outputColumn(index));
  const place = quoteTable({ schema: outputs.schema, table: `${outputs.table}p` });
  await session.run(
    `CREATE UNLOGGED TABLE ${place} (${PLACE_COLUMN} bigint, ${names.map((name) => `${quoteIdentifier(name)} double precision`).join(", ")}${explain ? `, ${REASONS_COLUMN} jsonb` : ""})`,
    "a table for predictions",
  );
  const wanted = [...columns.numbers, ...columns.categories].map(quoteIdentifier).join(", ");
  for (let from = 0; ; from += PAGE) {
    const rows = await session.run(
      `SELECT ${PLACE_COLUMN}${wanted === "" ? "" : `, ${wanted}`} FROM ${numbered} WHERE ${PLACE_COLUMN} > $1 AND ${PLACE_COLUMN} <= $2`,
      "rows to score here",
      [from, from + PAGE],
    );
    if (rows.length === 0) break;
    session.leave({ streamed: rows.length });
    const places = rows.map((row) => String(row[PLACE_COLUMN]));
    const predictions: ArrayLike<number>[] = [];
    const told: string[] = [];
    await inStretches(rows.length, pace, (index) => {
      const features = featureRow(rows[index]!, columns.numbers, columns.categories);
      const prediction = compiled.predict(valuesOf(features, compiled.columns));
      predictions.push(prediction);
      if (explain) told.push(JSON.stringify(explain(features, prediction)));
    });
    const reasons = explain ? [told] : [];
    const arrays = names.map((_, output) => predictions.map((prediction) => prediction[output]!));
    await session.run(
      `INSERT INTO ${place} SELECT * FROM unnest($1::bigint[], ${names.map((_, index) => `$${index + 2}::double precision[]`).join(", ")}${explain ? `, $${names.length + 2}::jsonb[]` : ""})`,
      "predictions made by the worker",
      [places, ...arrays, ...reasons],
    );
    pace.progress("rows scored", Math.min(count, from + PAGE), count);
    await pace.breathe();
  }
  await session.run(
    `CREATE UNLOGGED TABLE ${quoteTable(outputs)} AS SELECT i.*, ${names.map((name) => `p.${quoteIdentifier(name)}`).join(", ")}${explain ? `, p.${REASONS_COLUMN}` : ""} FROM ${numbered} AS i JOIN ${place} AS p USING (${PLACE_COLUMN})`,
    "rows with their predictions",
  );
  await session.run(
    `ALTER TABLE ${quoteTable(outputs)} DROP COLUMN ${PLACE_COLUMN}`,
    "the numbers are no longer needed",
  );
  await session.run(`DROP TABLE ${place}`, "drop a scratch table");
}
