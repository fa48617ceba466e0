import type { Command } from "commander";
import type PgBoss from "pg-boss";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { orderAgain } from "@/runs/again";
import type { Context } from "@/runs/context";
import { openQueue, sendRun } from "@/runs/queue";
import { announceRun } from "@/store/database";
import { askCancel, retryRun, runById, runsBeginning, type RunRow } from "@/store/runs";
import { print } from "../output";
import { withContext } from "./client";
import { follow } from "./follow";

const LISTS = "./ravlen runs lists them.";

/** The run whose id begins so. */
async function runOf({ store: { db } }: Context, beginning: string): Promise<RunRow> {
  const [id, another] = await runsBeginning(db, beginning, 2);
  if (another !== undefined)
    throw new Error(`Several run ids start with ${beginning}. ./ravlen runs --json prints them in full.`);
  const run = id === undefined ? undefined : await runById(db, id);
  if (!run) throw new Error(`There is no run with this id. ${LISTS}`);
  return run;
}

/** Does something with the queue open. */
async function withQueue<T>(url: string, work: (boss: PgBoss) => Promise<T>): Promise<T> {
  const boss = await openQueue(url, "sender", () => undefined);
  try {
    return await work(boss);
  } finally {
    await boss.stop({ graceful: false, wait: false });
  }
}

/** Follows a run to its end and says what became of it. */
async function tellEnd(context: Context, id: string, json: boolean): Promise<void> {
  const run = await follow(context, id, !json);
  if (run.state !== "done") process.exitCode = 1;
  print(
    json,
    { run: id, state: run.state, rows: run.rows, problems: run.problems },
    () => `${run.state}: ${run.problems[0]?.message ?? run.outcome ?? ""}`,
  );
}

/** go-on, again and cancel: what can be done with a run that there is. */
export function addRunActionCommands(program: Command): void {
  program
    .command("resume")
    .alias("go-on")
    .argument("<run>", "id of a failed run, or its first characters")
    .option("--json", "print JSON", false)
    .description("resume a failed run")
    .action((beginning: string, options: { json: boolean }) =>
      withContext(async (context, url) => {
        const { id } = await runOf(context, beginning);
        const retried = await retryRun(context.store.db, id);
        if (!retried) throw new Error(`There is no failed run with this id. ${LISTS}`);
        await withQueue(url, (boss) => sendRun(boss, retried));
        await announceRun(context.store, id);
        await tellEnd(context, id, options.json);
      }),
    );

  program
    .command("rerun")
    .alias("again")
    .argument("<run>", "id of a run, or its first characters")
    .option("--json", "print JSON", false)
    .option("--no-wait", "queue the run and return")
    .description("run again for the same logical time, with the newest file version")
    .action((beginning: string, options: { json: boolean; wait: boolean }) =>
      withContext(async (context, url) => {
        const before = await runOf(context, beginning);
        const run = unwrap(await withQueue(url, (boss) => orderAgain(context, boss, before.id)));
        if (options.wait) return tellEnd(context, run.id, options.json);
        print(options.json, { run: run.id, state: run.state }, () => `Run ${run.id} is queued.`);
      }),
    );

  program
    .command("cancel")
    .argument("<run>", "id of a waiting or running run, or its first characters")
    .option("--json", "print JSON", false)
    .option("--no-wait", "request it and return")
    .description("cancel a run; nothing more is delivered")
    .action((beginning: string, options: { json: boolean; wait: boolean }) =>
      withContext(async (context) => {
        const { id, state } = await runOf(context, beginning);
        if (state !== "queued" && state !== "running")
          throw new ProblemError(problem("run_ended", `This run has ended: ${state}.`));
        await askCancel(context.store.db, id);
        await announceRun(context.store, id);
        const run = options.wait ? await follow(context, id, !options.json) : await runOf(context, id);
        print(options.json, { run: id, state: run.state }, () =>
          run.state === "running" ? "The run is stopping." : `The run is ${run.state}.`,
        );
      }),
    );
}
