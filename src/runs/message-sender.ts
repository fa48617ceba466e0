import { mkdir, rename } from "node:fs/promises";
import path from "node:path";
import { createTransport } from "nodemailer";
import pino from "pino";
import { z } from "zod";
import { binary, cast, column, text } from "@/core/expression/ast";
import { filter } from "@/core/relation/relation";
import { keepMessage, messageFailed, messageSent, takeMessage, type MessageRow } from "@/store/outbox";
import type { Context } from "./context";
import { errorText } from "./failure";
import { exportToFile, EXPORT_FORMATS } from "./export/export-rows";
import { tableSource } from "./export/sources";

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });
/** Messages that one worker sends at once. */
const AT_ONCE = 4;
/** After so many seconds without a sign of life of who sends it somebody else tries a message. */
const LEASE_SECONDS = 60;
/** Seconds that a receiver may take to answer. */
const ANSWER_SECONDS = 15;
/** Seconds before each further try; after the last a message is given up. */
const PAUSES = [5, 30, 120, 600, 3600];

/** How patient a sender is. */
interface Patience {
  readonly leaseSeconds: number;
  readonly answerSeconds: number;
}

/**
 * Sends what waits in the outbox, a few at a time and one per receiver, so that a receiver who is silent holds up only what is for him.
 * Any number of workers may have one: as long as one sends a message it says so, and no other takes it. A receiver must expect the same
 * key twice, should a worker die in between.
 */
export class MessageSender {
  private readonly underWay = new Map<string, Promise<void>>();

  constructor(
    private readonly context: Context,
    private readonly patience: Patience = { leaseSeconds: LEASE_SECONDS, answerSeconds: ANSWER_SECONDS },
  ) {}

  /** Begins to send what is due, as far as there is room; does not wait for answers. */
  async look(): Promise<void> {
    const { db } = this.context.store;
    while (this.underWay.size < AT_ONCE) {
      const message = await takeMessage(db, this.patience.leaseSeconds, [...this.underWay.keys()]);
      if (!message) return;
      const { target } = message;
      const sending = this.attempt(message)
        .catch((error: unknown) =>
          log.warn(
            { message: message.id, error: String(error) },
            "the delivery status of a message could not be saved",
          ),
        )
        .finally(() => this.underWay.delete(target));
      this.underWay.set(target, sending);
    }
  }

  /** Sends until nothing is due any more. */
  async sendAll(): Promise<void> {
    for (;;) {
      await this.look();
      if (this.underWay.size === 0) return;
      await Promise.race(this.underWay.values());
    }
  }

  private async attempt(message: MessageRow): Promise<void> {
    const { db } = this.context.store;
    const { leaseSeconds, answerSeconds } = this.patience;
    const lease = setInterval(
      () =>
        void keepMessage(db, message, leaseSeconds).catch((error: unknown) =>
          log.warn({ message: message.id, error: String(error) }, "a message could not be saved"),
        ),
      (1000 * leaseSeconds) / 3,
    );
    try {
      await send(this.context, message, answerSeconds);
      await messageSent(db, message);
    } catch (error) {
      const again = PAUSES[message.attempts - 1];
      log.warn(
        { message: message.id, kind: message.kind, attempt: message.attempts, error: errorText(error) },
        again === undefined ? "a message was given up" : "a message failed; it will be retried",
      );
      await messageFailed(db, message, errorText(error), again);
    } finally {
      clearInterval(lease);
    }
  }
}

async function send(context: Context, message: MessageRow, answerSeconds: number): Promise<void> {
  switch (message.kind) {
    case "webhook":
      return post(message, answerSeconds);
    case "mail":
      return mailTo(message, answerSeconds);
    case "file":
      return dropFile(context, message);
  }
}

async function post({ target, key, subject, body }: MessageRow, answerSeconds: number): Promise<void> {
  const answer = await fetch(target, {
    method: "POST",
    headers: { "content-type": "application/json", "idempotency-key": key },
    body: JSON.stringify({ subject, ...body }),
    signal: AbortSignal.timeout(1000 * answerSeconds),
    redirect: "error",
  });
  await answer.body?.cancel();
  if (!answer.ok) throw new Error(`The receiver returned ${answer.status}.`);
}

const mailSchema = z.object({ server: z.string(), from: z.string(), text: z.string() });

async function mailTo({ target, subject, key, body }: MessageRow, answerSeconds: number): Promise<void> {
  const { server, from, text } = mailSchema.parse(body);
  const [host = "", port = "25"] = server.split(":");
  const transport = createTransport({
    host,
    port: Number(port),
    connectionTimeout: 1000 * answerSeconds,
    greetingTimeout: 1000 * answerSeconds,
    socketTimeout: 1000 * answerSeconds,
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
  const ofRun = binary(column("run_id"), "=", cast(text(run), "uuid"));
  await exportToFile(
    context.warehouse,
    { ...source, exact: true, relation: filter(source.relation, ofRun) },
    format,
    unfinished,
  );
  await rename(unfinished, file);
}
