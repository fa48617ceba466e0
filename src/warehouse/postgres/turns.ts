import type { TableReference } from "@/core/relation/relation";
import { quoteTable } from "./dialect/quote";
import type { PostgresSession } from "./session";

/**
 * Takes turns with everybody who makes or fills a table: two who make it at once would each find that it is there
 * already. Until the end of the transaction.
 */
export async function takeTurns(session: PostgresSession, table: TableReference): Promise<void> {
  // A long move of somebody else is no failure: this lock is waited for as long as it takes.
  const [before] = await session.run(
    "SELECT current_setting('lock_timeout') AS patience, set_config('lock_timeout', '0', true)",
    "remove the lock timeout",
  );
  await session.run("SELECT pg_advisory_xact_lock(hashtextextended($1, 0))", "lock the table", [
    quoteTable(table),
  ]);
  await session.run("SELECT set_config('lock_timeout', $1, true)", "restore the lock timeout", [
    String(before?.["patience"] ?? "0"),
  ]);
}
