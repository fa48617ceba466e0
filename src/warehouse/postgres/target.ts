import { writeTableName } from "@/core/pipeline/table-name";
import { ROUTE_COLUMN } from "@/core/plan/deliver";
import { problem, ProblemError, type Problem } from "@/core/problem";
import type { Relation, TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import type { Move } from "../move";
import type { DeclaredColumn } from "../port/landing";
import { takeTurns } from "./turns";
import type { PostgresSession } from "./session";

interface TargetColumn extends DeclaredColumn {
  /** Whether a row has to bring a value. */
  readonly demanded: boolean;
  /** Whether the table computes it, so that no row may bring a value. */
  readonly computed: boolean;
}

/** What decides how rows go into a table. */
type Rule = Pick<Move, "key" | "mode" | "partition">;

/** Columns under which a row of a table is the only one. */
function uniqueColumns({ mode, key, partition }: Rule): readonly string[] {
  switch (mode) {
    case "append":
      return [...key, "run_id"];
    case "partition":
      return partition === undefined || key.includes(partition) ? key : [...key, partition];
    case "upsert":
    case "replace":
      return key;
  }
}

/** Columns of a table, in order; none where there is no such table. */
export async function columnsOf(
  session: PostgresSession,
  table: TableReference,
): Promise<readonly TargetColumn[]> {
  const rows = await session.run(
    "SELECT a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type, a.attnotnull AND NOT a.atthasdef AND a.attidentity = '' AS demanded, a.attgenerated <> '' OR a.attidentity = 'a' AS computed FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2 AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum",
    "columns of the table",
    [table.schema, table.table],
  );
  return rows.map((row) => ({
    name: String(row["name"]),
    type: String(row["type"]),
    demanded: row["demanded"] === true,
    computed: row["computed"] === true,
  }));
}

/** Columns of staged rows without the hidden one. */
export const stagedColumns = async (
  session: PostgresSession,
  stage: TableReference,
): Promise<readonly DeclaredColumn[]> =>
  (await columnsOf(session, stage)).filter((column) => column.name !== ROUTE_COLUMN);

/**
 * The columns that a relation would have, with the types that the warehouse gives them; no row is computed.
 * @param scratch a scratch table, for a moment
 */
export async function columnsOfRelation(
  session: PostgresSession,
  relation: Relation,
  scratch: TableReference,
): Promise<readonly DeclaredColumn[]> {
  const none: Relation = { kind: "limit", input: relation, order: [], rows: 0 };
  await session.materialize(none, scratch, "determine the columns of the predictions");
  const found = await stagedColumns(session, scratch);
  await session.drop(scratch, "drop a scratch table");
  return found;
}

/** A rule of a table that no two rows agree in some columns. */
interface UniqueRule {
  readonly name: string;
  readonly columns: readonly string[];
  /** Whether it is looked at with every row, and so can decide which rows an upsert replaces. */
  readonly immediate: boolean;
}

async function uniqueRules(session: PostgresSession, table: TableReference): Promise<readonly UniqueRule[]> {
  const rows = await session.run(
    "SELECT c.relname AS name, i.indimmediate AS immediate, array(SELECT a.attname::text FROM unnest((i.indkey::smallint[])[0:i.indnkeyatts - 1]) AS keys(number) JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = keys.number) AS columns FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid WHERE i.indrelid = $1::regclass AND i.indisunique AND i.indisvalid AND i.indpred IS NULL AND i.indexprs IS NULL",
    "unique keys of the table",
    [quoteTable(table)],
  );
  return rows.map((row) => ({
    name: String(row["name"]),
    columns: row["columns"] as readonly string[],
    immediate: row["immediate"] === true,
  }));
}

const sameColumns = (left: readonly string[], right: readonly string[]): boolean =>
  left.length === right.length && left.every((name) => right.includes(name));

const misfit = (message: string, hint: string): Problem => problem("target_misfit", message, hint);

/** What does not fit between the columns of rows and those of the table they are to go into. */
function columnMisfit(
  target: TableReference,
  columns: readonly DeclaredColumn[],
  existing: readonly TargetColumn[],
): Problem | undefined {
  const name = writeTableName(target);
  const there = new Map(existing.map((column) => [column.name, column]));
  const wrong = columns.filter((column) => there.get(column.name)?.type !== column.type);
  if (wrong.length > 0) {
    const list = wrong.map((column) => describeColumnMisfit(column, there.get(column.name))).join(", and ");
    const changes = wrong.map((column) => changeOf(column, there.has(column.name))).join(", ");
    return misfit(
      `The table ${name} exists but does not match: ${list}.`,
      `Run ALTER TABLE ${quoteTable(target)} ${changes}; or deliver into another table. Nothing was written.`,
    );
  }
  const computed = columns.filter((column) => there.get(column.name)?.computed);
  if (computed.length > 0)
    return misfit(
      `The table ${name} computes ${computed.map((column) => `"${column.name}"`).join(", ")} itself, so values cannot be written.`,
      "Make it a plain column, or deliver into another table. Nothing was written.",
    );
  const brought = new Set(columns.map((column) => column.name));
  const demanded = existing.filter((column) => column.demanded && !brought.has(column.name));
  if (demanded.length === 0) return undefined;
  const changes = demanded.map((column) => `ALTER COLUMN ${quoteIdentifier(column.name)} DROP NOT NULL`);
  return misfit(
    `The table ${name} demands a value in ${demanded.map((column) => `"${column.name}"`).join(", ")}, which these rows do not have.`,
    `Run ALTER TABLE ${quoteTable(target)} ${changes.join(", ")}; or deliver into another table. Nothing was written.`,
  );
}

const describeColumnMisfit = ({ name, type }: DeclaredColumn, found: DeclaredColumn | undefined): string =>
  found ? `its "${name}" is ${found.type}, not ${type}` : `it lacks "${name}" ${type}`;

function changeOf({ name, type }: DeclaredColumn, there: boolean): string {
  const column = quoteIdentifier(name);
  return there
    ? `ALTER COLUMN ${column} TYPE ${type} USING ${column}::${type}`
    : `ADD COLUMN ${column} ${type}`;
}

/** What does not fit between how rows are to go into a table and by what it is unique. */
function uniqueMisfit(
  target: TableReference,
  { key, mode, partition }: Rule,
  rules: readonly UniqueRule[],
): Problem | undefined {
  const name = writeTableName(target);
  const unique = uniqueColumns({ key, mode, partition });
  const fitting = rules.filter((rule) => sameColumns(rule.columns, unique));
  // One that is deferrable spoils it, even beside one that is not.
  const deferred = fitting.filter((rule) => !rule.immediate);
  if (mode === "upsert" && (fitting.length === 0 || deferred.length > 0)) {
    const changes = [
      ...deferred.map((rule) => `DROP CONSTRAINT ${quoteIdentifier(rule.name)}`),
      ...(fitting.length > deferred.length ? [] : [`ADD UNIQUE (${key.map(quoteIdentifier).join(", ")})`]),
    ];
    return misfit(
      deferred.length > 0
        ? `The unique key of the table ${name} over ${key.join(", ")} is deferrable, so upsert cannot use it.`
        : `The table ${name} has no unique key over ${key.join(", ")}, which upsert needs.`,
      `Run ALTER TABLE ${quoteTable(target)} ${changes.join(", ")}; or use mode: append, or deliver into another table. Nothing was written.`,
    );
  }
  const appends = mode === "append" || (mode === "partition" && unique.length > key.length);
  if (!appends || !rules.some((rule) => sameColumns(rule.columns, key))) return undefined;
  return misfit(
    `The table ${name} holds each ${key.join(", ")} once, so ${mode === "append" ? "runs" : "partitions"} cannot be appended.`,
    "Use mode: upsert, or deliver into another table. Nothing was written.",
  );
}

/**
 * Judges a table that is there before rows go into it. Problems: target_misfit, with the statement that mends it
 * where one does.
 * @returns whether the table itself refuses a key that comes twice in one run; undefined where there is no such table
 */
export async function judgeTarget(
  session: PostgresSession,
  target: TableReference,
  columns: readonly DeclaredColumn[],
  rule: Rule,
): Promise<boolean | undefined> {
  const existing = await columnsOf(session, target);
  if (existing.length === 0) return undefined;
  const rules = await uniqueRules(session, target);
  const found = columnMisfit(target, columns, existing) ?? uniqueMisfit(target, rule, rules);
  if (found) throw new ProblemError(found);
  return rules.some((known) => known.immediate && sameColumns(known.columns, uniqueColumns(rule)));
}

const COLUMN_COMMENTS: Readonly<Record<string, string>> = {
  prediction: "What the model predicts.",
  probability: "Probability of the prediction's class; for yes and no, of yes.",
  model_version: "Version of the model that predicted.",
  reasons: "Reasons for the prediction: columns with values and contributions, largest first.",
  file_version: "Version of the pipeline's file that prepared the row.",
  part: "Part of the row: training, holdout, blind, or not in training.",
  made_at: "When the row was prepared.",
  run_id: "The run that wrote the row.",
  run_time: "The logical time of that run.",
  scored_at: "When the row was scored.",
};

/**
 * Makes the prediction table when it does not exist, with the staged columns' types, or judges the one that is there.
 * Upserts need the key to be unique, so there it is the primary key; appended rows are unique per run.
 * @returns whether the table itself refuses a key that comes twice in one run
 */
export async function ensureTarget(
  session: PostgresSession,
  target: TableReference,
  move: Omit<Move, "tables">,
  comment: string,
): Promise<boolean> {
  const columns = await stagedColumns(session, move.stage);
  const judged = await judgeTarget(session, target, columns, move);
  if (judged !== undefined) return judged;
  const made = await session.transaction(async () => {
    await takeTurns(session, target);
    if ((await columnsOf(session, target)).length > 0) return false;
    await makeTarget(session, target, columns, uniqueColumns(move));
    await session.run(`COMMENT ON TABLE ${quoteTable(target)} IS ${quoteText(comment)}`, "set its comment");
    return true;
  });
  // Somebody else has made it meanwhile.
  return made || ((await judgeTarget(session, target, columns, move)) ?? false);
}

/**
 * Says what a table is, where it is ours to describe: a table that somebody else has made keeps its own
 * description.
 */
export async function describeTarget(
  session: PostgresSession,
  target: TableReference,
  comment: string,
): Promise<void> {
  const [row] = await session.run(
    "SELECT pg_has_role(relowner, 'USAGE') AS own FROM pg_class WHERE oid = $1::regclass",
    "check whether the table can be described",
    [quoteTable(target)],
  );
  if (row?.["own"] !== true) return;
  await session.run(`COMMENT ON TABLE ${quoteTable(target)} IS ${quoteText(comment)}`, "set its comment");
}

async function makeTarget(
  session: PostgresSession,
  target: TableReference,
  columns: readonly DeclaredColumn[],
  unique: readonly string[],
): Promise<void> {
  const list = columns.map(({ name, type }) => `${quoteIdentifier(name)} ${type}`).join(", ");
  await session.run(
    `CREATE TABLE ${quoteTable(target)} (${list}, PRIMARY KEY (${unique.map(quoteIdentifier).join(", ")}))`,
    "create the prediction table",
  );
  for (const { name } of columns)
    if (COLUMN_COMMENTS[name] !== undefined)
      await session.run(
        `COMMENT ON COLUMN ${quoteTable(target)}.${quoteIdentifier(name)} IS ${quoteText(COLUMN_COMMENTS[name])}`,
        "set a column comment",
      );
}

/**
 * PostgreSQL's codes for a row that a rule of its table refuses: a missing or too long value, a foreign, unique or
 * check rule.
 */
const REFUSALS = new Set(["23502", "22001", "23503", "23505", "23514"]);

/** What a table refused while rows were moved into it, in words; undefined where it was something else. */
export function refusalOf(error: unknown): ProblemError | undefined {
  const { code, message } = error as { readonly code?: string; readonly message?: string };
  if (!REFUSALS.has(String(code))) return undefined;
  return new ProblemError(
    problem(
      "target_refuses",
      `The prediction table rejects a row: ${message ?? ""}.`,
      "Remove that constraint, fix the rows in an earlier step, or deliver to another table. Nothing was written.",
    ),
  );
}
