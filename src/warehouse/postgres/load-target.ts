import { someNames, someOf } from "@/core/format/some-names";
import type { Choices } from "@/core/files/look";
import { writeTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "./dialect/quote";
import type { PostgresSession } from "./session";

/** A name that nothing else has while an import is under way; it is never seen outside of its transaction. */
const INCOMING = "ravlen_incoming";

/**
 * Makes ready, inside the load's transaction, what rows are copied into: a new table, the table that will take the
 * place of an old one, or the table that is added to. Two loads into one table do not run at once.
 */
export async function prepareTarget(
  session: PostgresSession,
  target: TableReference,
  choices: Choices,
): Promise<TableReference> {
  const [lock] = await session.run(
    "SELECT pg_try_advisory_xact_lock(hashtextextended($1, 7)) AS taken",
    "lock the table for this import",
    [quoteTable(target)],
  );
  if (lock?.["taken"] !== true)
    throw new ProblemError(
      problem(
        "import_running",
        `Another file is being loaded into ${writeTableName(target)}.`,
        "Wait until it is done. Nothing was loaded.",
      ),
    );
  const columns = await session.run(
    "SELECT a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type FROM pg_attribute a WHERE a.attrelid = to_regclass($1) AND a.attnum > 0 AND NOT a.attisdropped ORDER BY a.attnum",
    "columns of the table",
    [quoteTable(target)],
  );
  const exists = columns.length > 0;
  if (choices.mode === "new" && exists)
    throw new ProblemError(
      problem(
        "table_exists",
        `There is already a table ${writeTableName(target)}.`,
        "Choose another name, or append to it, or replace it.",
      ),
    );
  if (choices.mode === "append") {
    if (!exists)
      throw new ProblemError(
        problem(
          "unknown_table",
          `There is no table ${writeTableName(target)} to append to.`,
          "Load it as a new table.",
        ),
      );
    const known = new Set(columns.map((column) => String(column["name"])));
    const extra = choices.columns
      .filter((column) => column.take && !known.has(column.name))
      .map((column) => column.name);
    if (extra.length > 0)
      throw new ProblemError(
        problem(
          "columns_do_not_fit",
          `${writeTableName(target)} has no column ${someNames(extra)}.`,
          `Rename the columns or leave them out. The table has: ${someOf([...known], 12)}.`,
        ),
      );
    return target;
  }
  const into = choices.mode === "replace" && exists ? { schema: target.schema, table: INCOMING } : target;
  await session.run(
    `CREATE TABLE ${quoteTable(into)} (${choices.columns
      .filter((column) => column.take)
      .map((column) => `${quoteIdentifier(column.name)} ${column.type}`)
      .join(", ")})`,
    "create the table",
  );
  return into;
}

/** After the rows: key, and the new table in the place of the old one. */
export async function finishTarget(
  session: PostgresSession,
  target: TableReference,
  into: TableReference,
  choices: Choices,
): Promise<void> {
  if (choices.key.length > 0 && choices.mode !== "append") {
    await session
      .run(
        `ALTER TABLE ${quoteTable(into)} ADD PRIMARY KEY (${choices.key.map(quoteIdentifier).join(", ")})`,
        "key of the table",
      )
      .catch((error: unknown) => {
        const { code, detail } = error as { readonly code?: string; readonly detail?: string };
        if (code === "23505")
          throw new ProblemError(
            problem(
              "key_repeats",
              `The key ${choices.key.join(", ")} is not unique. ${detail ?? ""}`,
              "Choose another key, or none. Nothing was loaded.",
            ),
          );
        if (code === "23502")
          throw new ProblemError(
            problem(
              "key_missing",
              `The key ${choices.key.join(", ")} is missing in some rows.`,
              "Choose another key, or none. Nothing was loaded.",
            ),
          );
        throw error;
      });
  }
  if (into.table === target.table) return;
  // Readers see the old rows until the moment of the commit. Views over the old table stand in the way, and are named.
  await session.run(`DROP TABLE ${quoteTable(target)}`, "drop the old table").catch((error: unknown) => {
    if ((error as { readonly code?: string }).code === "2BP01")
      throw new ProblemError(
        problem(
          "table_in_use",
          `Other objects depend on ${writeTableName(target)}: ${(error as { readonly detail?: string }).detail ?? ""}`,
          "Drop them first, or append instead. Nothing was loaded.",
        ),
      );
    throw error;
  });
  await session.run(
    `ALTER TABLE ${quoteTable(into)} RENAME TO ${quoteIdentifier(target.table)}`,
    "rename the new table",
  );
}
