import { mkdirSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { Server } from "node:net";
import path from "node:path";
import { SMTPServer } from "smtp-server";
import { codeOf, listenFrom } from "./ports";

/** Two small receivers on loopback, for trying what is sent: one for webhooks, one for mail. What arrives is kept as files. */
export interface Receivers {
  readonly webhook: string;
  readonly mailServer: string;
  readonly folder: string;
  readonly stop: () => Promise<void>;
}

const WEBHOOK_PORT = 4390;
const MAIL_PORT = 4325;
const MOST_BYTES = 5_000_000;

function readJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/** Starts them; `home` is where what arrives is kept, under received/. */
export async function startReceivers(home: string, say: (line: string) => void): Promise<Receivers> {
  const folder = path.join(home, "received");
  mkdirSync(folder, { recursive: true });
  let count = 0;
  const keep = (kind: string, content: string): void => {
    count += 1;
    writeFileSync(
      path.join(
        folder,
        `${new Date().toISOString().replaceAll(/[:.]/g, "")}-${String(count).padStart(4, "0")}-${kind}`,
      ),
      content,
    );
  };
  const web = createServer((request, response) => {
    let body = "";
    request.setEncoding("utf8");
    request.on("data", (piece: string) => {
      body += piece;
      if (body.length > MOST_BYTES) request.destroy();
    });
    request.on("end", () => {
      keep(
        "webhook.json",
        `${JSON.stringify({ key: request.headers["idempotency-key"], body: readJson(body) }, undefined, 2)}\n`,
      );
      response.writeHead(204).end();
    });
  });
  const mail = new SMTPServer({
    disabledCommands: ["AUTH", "STARTTLS"],
    authOptional: true,
    onData(stream, _session, done) {
      let text = "";
      stream.setEncoding("utf8");
      stream.on("data", (piece: string) => {
        text += piece;
      });
      stream.on("end", () => {
        keep("mail.eml", text);
        done();
      });
    },
  });
  mail.on("error", (error) => {
    // When a port is taken the next one is tried.
    if (codeOf(error) !== "EADDRINUSE") say(`the mail receiver: ${error.message}`);
  });
  const [webPort, mailPort] = [
    await listenFrom(web, WEBHOOK_PORT),
    await listenFrom(mail.server as Server, MAIL_PORT),
  ];
  return {
    webhook: `http://127.0.0.1:${webPort}/`,
    mailServer: `127.0.0.1:${mailPort}`,
    folder,
    stop: async () => {
      web.closeAllConnections();
      await Promise.all([
        new Promise<void>((resolve) => web.close(() => resolve())),
        new Promise<void>((resolve) => mail.close(() => resolve())),
      ]);
    },
  };
}
