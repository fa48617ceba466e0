import type { Logger } from "pino";
import { isConnectionLoss } from "@/runs/failure";

/**
 * Does the work of a process that the installation's own command has started: says when it is ready, ends when it is told to or when
 * that command dies, and stays when a database only goes away for a while.
 * @param begin gets everything going
 */
export function runAsChild(log: Logger, begin: () => Promise<void>): void {
  const fail = (error: unknown, what: string): void => {
    log.error({ error: error instanceof Error ? error.stack : String(error) }, what);
    process.exit(1);
  };
  // The queue marks a job as done without waiting for the answer; a database that is just restarting must not end the process.
  process.on("unhandledRejection", (error) => {
    if (!isConnectionLoss(error)) return fail(error, "unexpected");
    log.warn({ error: String(error) }, "the database is unreachable; continuing when it is back");
  });
  begin().then(
    () => {
      process.send?.("ready");
      const stop = (): void => process.exit(0);
      process.on("SIGTERM", stop);
      process.on("SIGINT", stop);
      // When the command that started it dies, so does the process; a run it held is taken up at the next start.
      process.on("disconnect", stop);
    },
    (error: unknown) => fail(error, "could not start"),
  );
}
