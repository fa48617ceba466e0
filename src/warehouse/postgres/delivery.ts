import type { Delivery } from "@/core/pipeline/operating-schema";
import { ROUTE_COLUMN } from "@/core/plan/deliver";
import { ProblemError, type Problem } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "./dialect/quote";
import { writeTableName } from "@/core/pipeline/table-name";
import { keyMissing, keyRepeats, rowsUnscored } from "../landing-problems";
import type { Move, NewerBy } from "../move";
import type { DeliveryRun, LandedRows, UnansweredRows } from "../port/landing";
import { columnsOf, describeTarget, refusalOf, stagedColumns } from "./target";
import { takeTurns } from "./turns";
import type { PostgresSession } from "./session";

/** The ledger lies beside the prediction tables, so that a move and its entry commit together. */
export const LEDGER = "ravlen_ledger";

export async function ensureLedger(session: PostgresSession, outputSchema: string): Promise<void> {
  const ledger = { schema: outputSchema, table: LEDGER };
  const columns = await columnsOf(session, ledger);
  if (columns.some((column) => column.name === "newest")) return;
  await session.transaction(async () => {
    await takeTurns(session, ledger);
    await makeLedger(session, outputSchema);
  });
}

async function makeLedger(session: PostgresSession, outputSchema: string): Promise<void> {
  await session.run(
    `CREATE TABLE IF NOT EXISTS ${quoteTable({ schema: outputSchema, table: LEDGER })} (run_id uuid NOT NULL, delivery text NOT NULL, pipeline text NOT NULL, target_table text NOT NULL, model_version integer NOT NULL, run_time timestamptz NOT NULL, rows bigint NOT NULL, landed_at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (run_id, delivery))`,
    "ledger of deliveries",
  );
  await session.run(
    `ALTER TABLE ${quoteTable({ schema: outputSchema, table: LEDGER })} ADD COLUMN IF NOT EXISTS by_table jsonb, ADD COLUMN IF NOT EXISTS newest text`,
    "ledger: rows by table, newest value",
  );
}

/**
 * The largest value that has landed of the column a delivery's rows are newer by, as text: whichever run landed
 * it, and whenever.
 */
export async function newestLanded(
  session: PostgresSession,
  outputSchema: string,
  landing: Pick<DeliveryRun, "pipeline" | "formerNames" | "delivery">,
  { type }: NewerBy,
): Promise<string | undefined> {
  const [row] = await session.run(
    `SELECT max(CAST(newest AS ${type}))::text AS newest FROM ${quoteTable({ schema: outputSchema, table: LEDGER })} WHERE pipeline = ANY ($1) AND delivery = $2`,
    "newest landed value",
    [[landing.pipeline, ...landing.formerNames], landing.delivery],
  );
  const newest = row?.["newest"] ?? null;
  return newest === null ? undefined : String(newest);
}

/** Which of some tables there are. */
export async function tablesThere(
  session: PostgresSession,
  tables: readonly TableReference[],
): Promise<readonly TableReference[]> {
  const rows = await session.run(
    "SELECT to_regclass(name) IS NOT NULL AS there FROM unnest($1::text[]) WITH ORDINALITY AS names(name, place) ORDER BY place",
    "list existing tables",
    [tables.map(quoteTable)],
  );
  return tables.filter((_, index) => rows[index]?.["there"] === true);
}

/** The ledger's entry of a run, when its rows have landed. */
export async function landedBefore(
  session: PostgresSession,
  outputSchema: string,
  landing: Pick<DeliveryRun, "run" | "delivery">,
): Promise<number | undefined> {
  const [row] = await session.run(
    `SELECT rows FROM ${quoteTable({ schema: outputSchema, table: LEDGER })} WHERE run_id = $1 AND delivery = $2`,
    "check whether this run has landed",
    [landing.run, landing.delivery],
  );
  return row ? Number(row["rows"]) : undefined;
}

const EXAMPLES = 3;

/** Takes rows without a prediction out of the staged ones. */
export async function leaveOutUnanswered(
  session: PostgresSession,
  stage: TableReference,
  key: readonly string[],
): Promise<UnansweredRows> {
  const columns = key.map(quoteIdentifier);
  const examples = await session.run(
    `SELECT concat_ws(' / ', ${columns.map((column) => `${column}::text`).join(", ")}) AS example FROM ${quoteTable(stage)} WHERE prediction IS NULL ORDER BY ${columns.join(", ")} LIMIT ${EXAMPLES}`,
    "rows that could not be predicted",
  );
  if (examples.length === 0) return { rows: 0, examples: [] };
  const rows = await session.affected(
    `DELETE FROM ${quoteTable(stage)} WHERE prediction IS NULL`,
    "exclude rows that could not be predicted",
  );
  return { rows, examples: examples.map(({ example }) => String(example)) };
}

/**
 * Checks staged rows before anything is moved: every prediction there, every key complete. Gives how many there
 * are.
 */
export async function checkStage(
  session: PostgresSession,
  stage: TableReference,
  key: readonly string[],
  of: Delivery["of"],
): Promise<number> {
  const unscoredRows = of === "features" ? "0" : "count(*) FILTER (WHERE prediction IS NULL)";
  const [row] = await session.run(
    `SELECT count(*) AS rows, ${unscoredRows} AS unscored, count(*) FILTER (WHERE ${key.map((column) => `${quoteIdentifier(column)} IS NULL`).join(" OR ")}) AS keyless FROM ${quoteTable(stage)}`,
    "check the staged rows",
  );
  const unscored = Number(row?.["unscored"] ?? 0);
  if (unscored > 0) throw new ProblemError(rowsUnscored(unscored, Number(row?.["rows"])));
  if (Number(row?.["keyless"] ?? 0) > 0) throw new ProblemError(keyMissing(Number(row?.["keyless"])));
  return Number(row?.["rows"] ?? 0);
}

/** The problem of staged rows that share a key, or undefined when none do. */
export async function repeatedKeys(
  session: PostgresSession,
  stage: TableReference,
  key: readonly string[],
): Promise<Problem | undefined> {
  const keys = key.map(quoteIdentifier);
  const repeated = await session.run(
    `SELECT ${keys.map((column) => `min(${column}::text)`).join(" || ', ' || ")} AS key FROM ${quoteTable(stage)} GROUP BY ${keys.join(", ")} HAVING count(*) > 1 ORDER BY 1 LIMIT 5`,
    "look for duplicate keys",
  );
  return repeated.length === 0 ? undefined : keyRepeats(repeated.map((row) => String(row["key"])));
}

/**
 * Moves staged rows into their tables together with the ledger entry, in one transaction: readers see all of it
 * or nothing. A run that has landed before changes nothing, however often it is retried.
 */
export async function land(
  session: PostgresSession,
  outputSchema: string,
  move: Move,
  landing: DeliveryRun,
): Promise<LandedRows> {
  const { stage, key, tables } = move;
  const names = (await stagedColumns(session, stage)).map((column) => column.name);
  const ledger = quoteTable({ schema: outputSchema, table: LEDGER });
  const work = (mayBeEmpty: boolean): Promise<LandedRows> =>
    session.transaction(async () => {
      // The entry comes first: a second attempt of the same run waits here for the first one's commit, and then
      // finds it.
      const entered = await session.run(
        `INSERT INTO ${ledger} (run_id, delivery, pipeline, target_table, model_version, run_time, rows) VALUES ($1, $2, $3, $4, $5, $6, 0) ON CONFLICT DO NOTHING RETURNING run_id`,
        "enter the run in the ledger",
        [
          landing.run,
          landing.delivery,
          landing.pipeline,
          writeTableName(tables.at(-1)!),
          landing.modelVersion,
          landing.runTime,
        ],
      );
      if (entered.length === 0)
        return { rows: (await landedBefore(session, outputSchema, landing)) ?? 0, byTable: [], before: true };
      // Moves into one table take turns: two at once could each wait for rows that the other has written.
      for (const target of [...tables].sort((left, right) => (quoteTable(left) < quoteTable(right) ? -1 : 1)))
        await takeTurns(session, target);
      const mark = await markOf(session, outputSchema, move, landing);
      await dropOld(session, move, mark);
      const outrun = move.mode === "replace" && (await newerLanded(session, ledger, landing));
      const byTable: number[] = [];
      for (const [position, target] of tables.entries()) {
        if (outrun) {
          byTable.push(0);
          continue;
        }
        for (const sql of removals(move, target, position))
          await session.run(sql, "delete rows to be replaced");
        byTable.push(
          await session.affected(
            insertion(move, target, position, names, mayBeEmpty && (await isEmpty(session, target))),
            "move the staged rows",
          ),
        );
      }
      const rows = byTable.reduce((sum, value) => sum + value, 0);
      if (move.comment !== undefined && !outrun)
        for (const target of tables) await describeTarget(session, target, move.comment);
      await session.run(
        `UPDATE ${ledger} SET rows = $3, by_table = $4::jsonb, newest = ${move.newerBy === undefined ? "$5" : `coalesce((SELECT max(${quoteIdentifier(move.newerBy.column)})::text FROM ${quoteTable(stage)}), $5)`} WHERE run_id = $1 AND delivery = $2`,
        "write the number of rows into the ledger",
        [
          landing.run,
          landing.delivery,
          rows,
          JSON.stringify(
            Object.fromEntries(tables.map((table, index) => [writeTableName(table), byTable[index]])),
          ),
          mark ?? null,
        ],
      );
      return { rows, byTable, before: false };
    });
  return work(true)
    .catch(async (error: unknown) => {
      if (!KEY_CLASHES.has(String((error as { code?: unknown }).code))) throw error;
      // The table's own key found what a look through all staged rows would have cost a second to find.
      const found = await repeatedKeys(session, stage, key);
      if (found) throw new ProblemError(found);
      // Somebody else wrote into a table that was empty a moment ago: their rows are looked for now.
      return work(false);
    })
    .catch((error: unknown) => {
      throw refusalOf(error) ?? error;
    });
}

/**
 * Up to where rows have landed by now; undefined where a delivery does not ask for what is newer, or nothing has
 * landed.
 */
async function markOf(
  session: PostgresSession,
  outputSchema: string,
  { newerBy }: Move,
  landing: DeliveryRun,
): Promise<string | undefined> {
  return newerBy === undefined ? undefined : newestLanded(session, outputSchema, landing, newerBy);
}

/**
 * Takes staged rows away that are no longer new: between the question which rows are new and the turn to land
 * them, another run may have landed the same. A transaction that fails brings them back.
 */
async function dropOld(
  session: PostgresSession,
  { stage, key, tables, onlyNew, newerBy }: Move,
  mark: string | undefined,
): Promise<void> {
  const from = quoteTable(stage);
  if (newerBy && mark !== undefined)
    await session.run(
      `DELETE FROM ${from} WHERE ${quoteIdentifier(newerBy.column)} <= CAST($1 AS ${newerBy.type})`,
      "exclude rows that another run has landed in the meantime",
      [mark],
    );
  if (onlyNew)
    for (const table of tables)
      await session.run(
        `DELETE FROM ${from} AS s USING ${quoteTable(table)} AS t WHERE ${key.map((name) => `t.${quoteIdentifier(name)} = s.${quoteIdentifier(name)}`).join(" AND ")}`,
        "exclude rows that another run has landed in the meantime",
      );
}

/**
 * Whether a table has no rows: then none can be in the way of those that come, and looking for them row by row can
 * be left out.
 */
async function isEmpty(session: PostgresSession, table: TableReference): Promise<boolean> {
  const [row] = await session.run(
    `SELECT NOT EXISTS (SELECT FROM ${quoteTable(table)}) AS empty`,
    "check whether the table is empty",
  );
  return row?.["empty"] === true;
}

/**
 * Whether a run of a later logical time has delivered the same already: then a table that it replaced stays as it
 * is.
 */
async function newerLanded(
  session: PostgresSession,
  ledger: string,
  { pipeline, formerNames, delivery, runTime }: DeliveryRun,
): Promise<boolean> {
  const found = await session.run(
    `SELECT 1 FROM ${ledger} WHERE pipeline = ANY ($1) AND delivery = $2 AND run_time > $3 LIMIT 1`,
    "check whether a later run has delivered",
    [[pipeline, ...formerNames], delivery, runTime],
  );
  return found.length > 0;
}

/** PostgreSQL's codes for a unique violation, and for an upsert that meets the same row twice. */
const KEY_CLASHES = new Set(["23505", "21000"]);

/**
 * That a row of a table is not of a later run than a staged one. A row without a time, which somebody else wrote,
 * is older than any.
 */
const NOT_LATER = "(t.run_time IS NULL OR t.run_time <= s.run_time)";

/**
 * What has to leave a table before rows come in: all of it, the partitions that come again, or keys that have
 * changed their route. Never what a run of a later logical time wrote.
 */
function removals(
  { mode, partition, key, stage, tables }: Move,
  target: TableReference,
  position: number,
): readonly string[] {
  const [to, from] = [quoteTable(target), quoteTable(stage)];
  switch (mode) {
    case "append":
      return [];
    case "replace":
      return [`DELETE FROM ${to}`];
    case "partition":
      return [
        `DELETE FROM ${to} AS t USING (SELECT DISTINCT ${quoteIdentifier(partition!)}, run_time FROM ${from}) AS s WHERE ${same([partition!])} AND ${NOT_LATER}`,
      ];
    case "upsert":
      return tables.length === 1
        ? []
        : [
            `DELETE FROM ${to} AS t USING ${from} AS s WHERE s.${ROUTE_COLUMN} <> ${position} AND ${key.map((name) => `t.${quoteIdentifier(name)} = s.${quoteIdentifier(name)}`).join(" AND ")} AND ${NOT_LATER}`,
          ];
  }
}

const same = (columns: readonly string[]): string =>
  columns
    .map((column) => `t.${quoteIdentifier(column)} IS NOT DISTINCT FROM s.${quoteIdentifier(column)}`)
    .join(" AND ");

/**
 * Conditions under which a staged row is still news: no table holds its key, or its partition, from a run of a
 * later logical time.
 */
function stillNews({ mode, key, partition, tables }: Move): readonly string[] {
  const none = (columns: readonly string[]): readonly string[] =>
    tables.map(
      (table) =>
        `NOT EXISTS (SELECT 1 FROM ${quoteTable(table)} AS t WHERE ${same(columns)} AND t.run_time > s.run_time)`,
    );
  if (mode === "partition") return none([partition!]);
  return mode === "upsert" && tables.length > 1 ? none(key) : [];
}

function insertion(
  move: Move,
  target: TableReference,
  position: number,
  names: readonly string[],
  empty: boolean,
): string {
  const { mode, key, stage, tables } = move;
  const list = names.map(quoteIdentifier).join(", ");
  const conflict =
    mode === "upsert" && !empty
      ? ` ON CONFLICT (${key.map(quoteIdentifier).join(", ")}) DO UPDATE SET ${names
          .filter((name) => !key.includes(name))
          .map((name) => `${quoteIdentifier(name)} = excluded.${quoteIdentifier(name)}`)
          .join(", ")} WHERE ${NOT_LATER.replaceAll("s.", "excluded.")}`
      : "";
  const conditions = [
    ...(tables.length === 1 ? [] : [`s.${ROUTE_COLUMN} = ${position}`]),
    ...stillNews(move),
  ];
  return `INSERT INTO ${quoteTable(target)} AS t (${list}) SELECT ${list} FROM ${quoteTable(stage)} AS s${conditions.length === 0 ? "" : ` WHERE ${conditions.join(" AND ")}`}${conflict}`;
}
