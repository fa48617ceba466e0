import { formatNumber } from "@/core/format/numbers";
import { mkdir, rename } from "node:fs/promises";
import path from "node:path";
import { createTransport } from "nodemailer";
import pino from "pino";
import { z } from "zod";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { parseTableName } from "@/core/pipeline/table-name";
import { describeProblem } from "@/core/problem";
import { quoteText } from "@/core/sql/quote";
import { listAlerts } from "@/store/alerts";
import {
  addMessages,
  messageFailed,
  messageSent,
  takeMessages,
  type MessageRow,
  type NewMessage,
} from "@/store/outbox";
import { readNotify } from "@/store/settings";
import { homeFolder, type Context } from "./context";
import { errorText } from "./failure";
import { exportToFile, EXPORT_FORMATS } from "./export/export-rows";
import { tableSource } from "./export/sources";

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });
const AT_ONCE = 20;
/** How long one message may take, in seconds; after that somebody else tries. */
const MOST_SECONDS = 60;
/** Seconds before each further try; after the last a message is given up. */
const PAUSES = [5, 30, 120, 600, 3600];

/** What this process has put into the outbox already. */
const told = new Set<string>();

/** Puts news of alerts into the outbox, for everybody who wants to hear of them: once when one comes up, and once when it clears. */
export async function tellOfAlerts(context: Context): Promise<void> {
  const { db } = context.store;
  const { webhook, mail, since } = await readNotify(db);
  if (webhook === null && mail === null) return;
  const news = (await listAlerts(db, 24)).flatMap((alert) => {
    const events = [
      ...(alert.openedAt >= since ? ["raised" as const] : []),
      ...(alert.clearedAt && alert.clearedAt >= since ? ["cleared" as const] : []),
    ];
    return events.flatMap((event): NewMessage[] => {
      const text =
        event === "raised" ? alert.problems.map(describeProblem).join("\n") : (alert.clearedWith ?? "");
      const common = {
        subject: event === "raised" ? alert.title : `Cleared: ${alert.title}`,
        key: `alert ${alert.id} ${event}`,
        runId: alert.runId,
      };
      return [
        ...(webhook === null
          ? []
          : [
              {
                ...common,
                kind: "webhook" as const,
                target: webhook,
                body: { event, kind: alert.kind, text, run: alert.runId },
              },
            ]),
        ...(mail === null
          ? []
          : [
              {
                ...common,
                kind: "mail" as const,
                target: mail.to,
                body: { server: mail.server, from: mail.from, text },
              },
            ]),
      ];
    });
  });
  const untold = news.filter((each) => !told.has(placeOf(each)));
  await addMessages(db, untold);
  for (const each of untold) told.add(placeOf(each));
}

const placeOf = ({ kind, target, key }: NewMessage): string => JSON.stringify([kind, target, key]);

export interface Landed {
  readonly run: string;
  readonly pipeline: string;
  readonly delivery: Delivery;
  readonly modelVersion: number;
  readonly runTime: Date;
  readonly rows: number;
}

/** Puts into the outbox what a delivery hands over beside its tables; a second attempt of the same run adds nothing. */
export async function handOver(
  context: Context,
  { run, pipeline, delivery, modelVersion, runTime, rows }: Landed,
): Promise<void> {
  const tables = [...delivery.routes.map((each) => each.table), delivery.table];
  const stamp = runTime
    .toISOString()
    .slice(0, 19)
    .replaceAll(/[^0-9T]/g, "");
  await addMessages(
    context.store.db,
    delivery.hand_over.flatMap((each): NewMessage[] => {
      const common = {
        subject: `${pipeline}, ${delivery.name}: ${formatNumber(rows)} rows for ${runTime.toISOString()}`,
        runId: run,
      };
      if ("webhook" in each)
        return [
          {
            ...common,
            kind: "webhook",
            target: each.webhook,
            key: `run ${run} ${delivery.name}`,
            body: {
              event: "landed",
              pipeline,
              delivery: delivery.name,
              run,
              runTime: runTime.toISOString(),
              modelVersion,
              rows,
              tables,
            },
          },
        ];
      return tables.map((table) => ({
        ...common,
        kind: "file",
        target: path.join(homeFolder(), "drops", each.folder),
        key: `run ${run} ${delivery.name} ${table}`,
        body: {
          table,
          run,
          name: `${(parseTableName(table)?.table ?? table).replaceAll(/[^\p{L}\p{N}_-]/gu, "_")}_${stamp}`,
          format: each.format,
        },
      }));
    }),
  );
}

/** Sends what waits in the outbox. Any number of workers may call this at the same time; a receiver must expect the same key twice, should one die in between. */
export async function sendMessages(context: Context): Promise<void> {
  const { db } = context.store;
  for (const message of await takeMessages(db, AT_ONCE, MOST_SECONDS)) {
    try {
      await send(context, message);
      await messageSent(db, message.id);
    } catch (error) {
      const again = PAUSES[message.attempts - 1];
      log.warn(
        { message: message.id, kind: message.kind, attempt: message.attempts, error: errorText(error) },
        again === undefined ? "a message was given up" : "a message did not arrive; it is sent again",
      );
      await messageFailed(db, message.id, errorText(error), again);
    }
  }
}

async function send(context: Context, message: MessageRow): Promise<void> {
  switch (message.kind) {
    case "webhook":
      return post(message);
    case "mail":
      return mailTo(message);
    case "file":
      return dropFile(context, message);
  }
}

async function post({ target, key, subject, body }: MessageRow): Promise<void> {
  const answer = await fetch(target, {
    method: "POST",
    headers: { "content-type": "application/json", "idempotency-key": key },
    body: JSON.stringify({ subject, ...body }),
    signal: AbortSignal.timeout(15_000),
    redirect: "error",
  });
  await answer.body?.cancel();
  if (!answer.ok) throw new Error(`The receiver answered ${answer.status}.`);
}

const mailSchema = z.object({ server: z.string(), from: z.string(), text: z.string() });

async function mailTo({ target, subject, key, body }: MessageRow): Promise<void> {
  const { server, from, text } = mailSchema.parse(body);
  const [host = "", port = "25"] = server.split(":");
  const transport = createTransport({
    host,
    port: Number(port),
    connectionTimeout: 10_000,
    greetingTimeout: 10_000,
    socketTimeout: 15_000,
    ignoreTLS: host === "127.0.0.1",
  });
  try {
    await transport.sendMail({ from, to: target, subject, text, headers: { "X-Ravlen-Key": key } });
  } finally {
    transport.close();
  }
}

const fileSchema = z.object({
  table: z.string(),
  run: z.uuid(),
  name: z.string(),
  format: z.enum(EXPORT_FORMATS),
});

/** Writes the rows that a run landed into a folder, under a name that appears only when the file is whole. */
async function dropFile(context: Context, { target, body }: MessageRow): Promise<void> {
  const { table, run, name, format } = fileSchema.parse(body);
  const source = await tableSource(context.warehouse, table);
  await mkdir(target, { recursive: true });
  const file = path.join(target, `${name}.${format}`);
  const unfinished = path.join(target, `.${name}.${process.pid}.unfinished`);
  await exportToFile(
    context.warehouse,
    { ...source, sql: `${source.sql} WHERE run_id = ${quoteText(run)}::uuid` },
    format,
    unfinished,
  );
  await rename(unfinished, file);
}
