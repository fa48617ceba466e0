import { userInfo } from "node:os";
import type { Command } from "commander";
import { unwrap } from "@/core/problem";
import { orderBackfill, stopBackfill } from "@/runs/backfill";
import { homeFolder, type Context } from "@/runs/context";
import { backfillById, backfillRuns } from "@/store/backfills";
import { listModels } from "@/store/models";
import { findPipeline } from "@/store/pipelines";
import { demoState, notifySchema, readNotify, setNotify, wishDemoTime } from "@/store/settings";
import { print } from "../output";
import { say } from "../services/installation";
import { startReceivers } from "../services/receivers";
import { withContext } from "./client";
import { pause } from "./follow";

interface BackfillFlags {
  readonly from: string;
  readonly through: string;
  readonly delivery?: string;
  readonly cron?: string;
  readonly zone?: string;
  readonly parallel: string;
  readonly version?: string;
  readonly wait: boolean;
  readonly json: boolean;
}

function time(text: string, end: boolean): Date {
  const day = /^\d{4}-\d{2}-\d{2}$/.test(text);
  const found = new Date(day ? `${text}T${end ? "23:59:59" : "00:00:00"}Z` : text);
  if (Number.isNaN(found.getTime()))
    throw new Error(`"${text}" is not a time; write it like 2026-06-30 or 2026-06-30T22:00:00Z.`);
  return found;
}

/** Orders a backfill and follows it to its end. */
async function backfill(context: Context, name: string, flags: BackfillFlags): Promise<void> {
  const { db } = context.store;
  const pipeline = await findPipeline(db, name);
  const model =
    flags.version === undefined
      ? undefined
      : pipeline &&
        (await listModels(db, pipeline.id)).find((model) => String(model.number) === flags.version);
  if (flags.version !== undefined && !model) throw new Error(`"${name}" has no version ${flags.version}.`);
  const now = await context.now();
  const until = time(flags.through, true);
  const ordered = unwrap(
    await orderBackfill(context, {
      pipeline: name,
      from: time(flags.from, false),
      until: /^\d{4}-\d{2}-\d{2}$/.test(flags.through) && until > now ? now : until,
      parallel: Number(flags.parallel) || 2,
      by: userInfo().username,
      ...(flags.delivery === undefined ? {} : { delivery: flags.delivery }),
      ...(flags.cron === undefined ? {} : { cron: flags.cron }),
      ...(flags.zone === undefined ? {} : { zone: flags.zone }),
      ...(model ? { modelId: model.id } : {}),
    }),
  );
  if (!flags.wait)
    return print(
      flags.json,
      { backfill: ordered.id, times: ordered.total },
      () => `Backfill ${ordered.id} started: ${ordered.total} times.`,
    );
  let told = -1;
  for (;;) {
    const [row, runs] = [await backfillById(db, ordered.id), await backfillRuns(db, ordered.id)];
    const ended = runs.done + runs.failed + runs.cancelled;
    if (ended !== told && !flags.json)
      process.stderr.write(
        `  ${ended} of ${ordered.total}${runs.failed > 0 ? `, ${runs.failed} failed` : ""}\n`,
      );
    told = ended;
    if (row?.state === "done" || row?.state === "stopped") {
      if (runs.failed > 0) process.exitCode = 1;
      return print(
        flags.json,
        { backfill: ordered.id, state: row.state, ...runs },
        () =>
          `Backfill ${ordered.id} ${row.state}: ${runs.done} of ${ordered.total} done, ${runs.failed} failed.`,
      );
    }
    await pause(500);
  }
}

/** backfill, stop-backfill, advance, receivers and notify: what is done about times that have passed. */
export function addOperatingCommands(program: Command): void {
  program
    .command("backfill")
    .argument("<name>", "pipeline")
    .requiredOption("--from <time>", "first time, such as 2026-04-01")
    .requiredOption("--through <time>", "last time")
    .option("--delivery <name>", "delivery of the file; the first by default")
    .option("--cron <fields>", "cron expression; that of the delivery's schedule by default")
    .option("--zone <zone>", "time zone of --cron")
    .option("--parallel <n>", "runs in parallel", "2")
    .option("--version <n>", "model version; the one in service by default")
    .option("--no-wait", "start it and return")
    .option("--json", "print JSON", false)
    .description("score every scheduled time in a range, as if each run had happened then")
    .action((name: string, flags: BackfillFlags) => withContext((context) => backfill(context, name, flags)));

  program
    .command("advance")
    .alias("pass-time")
    .option("--days <n>", "number", "1")
    .option("--no-wait", "request it and return")
    .description("in the demo: advance the clock by days, running what is due")
    .action((options: { days: string; wait: boolean }) =>
      withContext(async (context) => {
        const days = Number(options.days);
        if (!(Number.isInteger(days) && days >= 1 && days <= 31))
          throw new Error(`--days ${options.days} is not a whole number between 1 and 31.`);
        const until = new Date((await context.now()).getTime() + days * 86_400_000);
        if (!(await wishDemoTime(context.store.db, until)))
          throw new Error("The clock can be advanced in the demo only.");
        while (options.wait && (await demoState(context.store.db))?.wish) await pause(500);
        process.stdout.write(
          options.wait
            ? `It is ${(await context.now()).toISOString().slice(0, 16).replace("T", " ")} UTC.\n`
            : "Time is passing.\n",
        );
      }),
    );

  program
    .command("receivers")
    .description("start local test receivers for webhooks and mail; messages are saved under received/")
    .action(async () => {
      const { webhook, mailServer, folder } = await startReceivers(homeFolder(), say);
      process.stdout.write(
        `Webhooks: ${webhook}\nMail: ${mailServer}\nKept in ${folder}. Ctrl+C stops them.\n`,
      );
    });

  program
    .command("notify")
    .option("--webhook <url>", "address to notify of alerts; none to turn off")
    .option("--mail-server <host:port>", "mail server")
    .option("--from <address>", "sender")
    .option("--to <address>", "recipient; none to turn off")
    .description("set and show alert notifications")
    .action((options: { webhook?: string; mailServer?: string; from?: string; to?: string }) =>
      withContext(async ({ store: { db } }) => {
        const now = await readNotify(db);
        const mail =
          options.to === "none"
            ? null
            : {
                server: options.mailServer ?? now.mail?.server ?? "",
                from: options.from ?? now.mail?.from ?? "",
                to: options.to ?? now.mail?.to ?? "",
              };
        const changed = Object.keys(options).length > 0;
        if (changed) {
          const wanted = notifySchema.safeParse({
            webhook: options.webhook === "none" ? null : (options.webhook ?? now.webhook),
            mail: mail === null || mail.to === "" ? null : mail,
            since: new Date(),
          });
          if (!wanted.success)
            throw new Error(
              "A webhook is an http or https address; mail needs --mail-server host:port, --from and --to.",
            );
          await setNotify(db, wanted.data);
        }
        const { webhook, mail: mails } = await readNotify(db);
        process.stdout.write(
          `Webhook: ${webhook ?? "nobody"}\nMail: ${mails ? `${mails.to}, by ${mails.server}` : "nobody"}\n`,
        );
      }),
    );

  program
    .command("stop-backfill")
    .argument("<number>", "backfill")
    .description("stop a backfill; landed predictions stay")
    .action((number: string) =>
      withContext(async (context) => {
        if (!(await backfillById(context.store.db, Number(number) || 0)))
          throw new Error(`There is no backfill ${number}.`);
        await stopBackfill(context, Number(number));
        process.stdout.write(`Backfill ${number} is stopped.\n`);
      }),
    );
}
