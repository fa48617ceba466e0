import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { createServer } from "node:net";
import path from "node:path";
import { startReceivers, type Receivers } from "@/cli/services/receivers";
import { addMessages, listMessages, sendAgain } from "@/store/outbox";
import { setNotify } from "@/store/settings";
import { outbox } from "@/store/schema";
import { eq } from "drizzle-orm";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { MessageSender } from "./message-sender";
import { tellOfAlerts } from "./outbox";

let bench: Bench;
let home: string;
let receivers: Receivers;
const before = process.env["RAVLEN_HOME"];
beforeAll(async () => {
  home = mkdtempSync(path.join(tmpdir(), "ravlen-outbox-"));
  process.env["RAVLEN_HOME"] = home;
  bench = await openBench();
  receivers = await startReceivers(home, () => undefined);
  await bench.sql(labTable());
});
afterAll(async () => {
  await receivers.stop();
  await bench.close();
  rmSync(home, { recursive: true, force: true });
  if (before === undefined) delete process.env["RAVLEN_HOME"];
  else process.env["RAVLEN_HOME"] = before;
});

const later = (days: number): Date => new Date(TEST_NOW.getTime() + days * 86_400_000);
const received = (kind: string): readonly string[] =>
  readdirSync(path.join(home, "received"))
    .filter((text) => text.endsWith(kind))
    .sort()
    .map((text) => readFileSync(path.join(home, "received", text), "utf8"));
const states = async () =>
  (await listMessages(bench.context.store.db, 50))
    .map((message) => `${message.kind} ${message.state}`)
    .sort();
/** Sends from three workers at once, as often as there may be something to send. */
async function send(): Promise<void> {
  for (let round = 0; round < 2; round += 1)
    await Promise.all([1, 2, 3].map(() => new MessageSender(bench.context).sendAll()));
}

test("rows of a run are handed over as a whole file, and a webhook is told of the landing, once each", async () => {
  await bench.save(
    labFile({
      name: "handed",
      delivery: `{name: desk, table: predictions.handed, hand_over: [{folder: desk, format: csv}, {webhook: "${receivers.webhook}"}]}`,
    }),
  );
  await bench.train("handed");
  const run = await bench.run("score", "handed");
  await send();
  const [name, ...more] = readdirSync(path.join(home, "drops", "desk"));
  expect(more).toEqual([]);
  const lines = readFileSync(path.join(home, "drops", "desk", name!), "utf8")
    .trim()
    .split("\n");
  expect(lines[0]).toBe("id,prediction,probability,model_version,run_id,run_time,scored_at");
  const ids = (await bench.sql("SELECT id FROM predictions.handed ORDER BY id")).map((row) =>
    String(row["id"]),
  );
  expect(
    lines
      .slice(1)
      .map((line) => line.split(",")[0]!)
      .sort(),
  ).toEqual([...ids].sort());
  const [told, ...others] = received("webhook.json").map(
    (text) => JSON.parse(text) as { key: string; body: Record<string, unknown> },
  );
  expect(others).toEqual([]);
  expect(told!.body).toMatchObject({
    event: "landed",
    pipeline: "handed",
    run: run.id,
    rows: 400,
    tables: ["predictions.handed"],
  });
  expect(await states()).toEqual(["file sent", "webhook sent"]);
});

test("alerts reach mail and webhook once when they come up and once when they clear; what cannot be reached is tried again, and then given up", async () => {
  await bench.sql(labTable({ table: "lab.alerting" }));
  await bench.save(
    labFile({
      name: "alerting",
      from: "lab.alerting",
      delivery: "{name: desk, table: predictions.alerting}",
    }),
  );
  await bench.train("alerting");
  const nobody = "http://127.0.0.1:9/";
  await setNotify(bench.context.store.db, {
    webhook: nobody,
    mail: { server: receivers.mailServer, from: "ravlen@example.org", to: "desk@example.org" },
    since: new Date(),
  });
  await bench.sql("ALTER TABLE lab.alerting RENAME COLUMN x1 TO x_one");
  for (const day of [0, 1]) await bench.run("score", "alerting", { at: later(day) });
  for (let look = 0; look < 2; look += 1) await tellOfAlerts(bench.context);
  await send();
  const [mail, ...more] = received("mail.eml");
  expect(more).toEqual([]);
  expect(mail).toContain("Subject: The data that scoring alerting read");
  expect(mail!.replaceAll("=\r\n", "")).toContain('The column "x1" of lab.alerting no longer exists');
  expect(
    (await listMessages(bench.context.store.db, 50)).find((message) => message.target === nobody),
  ).toMatchObject({ state: "waiting", attempts: 1 });
  for (let attempt = 2; attempt <= 6; attempt += 1) {
    await bench.context.store.pool.query("UPDATE outbox SET next_at = now() WHERE state = 'waiting'");
    await new MessageSender(bench.context).sendAll();
  }
  const given = (await listMessages(bench.context.store.db, 50)).find(
    (message) => message.target === nobody,
  )!;
  expect(given).toMatchObject({ state: "given up", attempts: 6 });
  await bench.context.store.pool.query("UPDATE outbox SET target = $1 WHERE id = $2", [
    receivers.webhook,
    given.id,
  ]);
  await sendAgain(bench.context.store.db, given.id);
  await send();
  await bench.sql("ALTER TABLE lab.alerting RENAME COLUMN x_one TO x1");
  await setNotify(bench.context.store.db, {
    webhook: receivers.webhook,
    mail: { server: receivers.mailServer, from: "ravlen@example.org", to: "desk@example.org" },
    since: given.createdAt,
  });
  await bench.run("score", "alerting", { at: later(2) });
  await tellOfAlerts(bench.context);
  await send();
  expect(received("mail.eml")).toHaveLength(2);
  expect(received("mail.eml")[1]).toContain("Subject: Cleared: ");
  const events = received("webhook.json").map(
    (text) => (JSON.parse(text) as { body: { event: string } }).body.event,
  );
  expect(events).toEqual(["landed", "raised", "cleared"]);
});

test("a receiver who is silent holds up only what is for him, and nobody else sends it meanwhile", async () => {
  const { db } = bench.context.store;
  const silent = createServer((socket) => void socket.on("error", () => undefined));
  await new Promise<void>((resolve) => void silent.listen(0, "127.0.0.1", resolve));
  const port = (silent.address() as { readonly port: number }).port;
  const target = `http://127.0.0.1:${port}/`;
  const message = (to: string, key: string) => ({
    kind: "webhook" as const,
    target: to,
    subject: key,
    body: { event: "raised" },
    key,
  });
  await addMessages(db, [
    ...[1, 2, 3, 4, 5].map((number) => message(target, `silent ${number}`)),
    message(receivers.webhook, "heard"),
  ]);
  const of = async (key: string) => (await listMessages(db, 50)).find((found) => found.key === key)!;
  // The answer takes three times as long as the lease.
  const patience = { leaseSeconds: 1, answerSeconds: 3 };
  const senders = [1, 2].map(() => new MessageSender(bench.context, patience));
  const begun = Date.now();
  await senders[0]!.look();
  while ((await of("heard")).state !== "sent" && Date.now() - begun < 60_000)
    await new Promise((resolve) => setTimeout(resolve, 20));
  expect(await of("heard")).toMatchObject({ state: "sent" });
  expect(await of("silent 1")).toMatchObject({ state: "waiting", attempts: 1, problem: null });
  // Another worker takes the next one, and not the one that is under way.
  while ((await of("silent 1")).problem === null && Date.now() - begun < 60_000) await senders[1]!.look();
  expect(await of("silent 1")).toMatchObject({ state: "waiting", attempts: 1 });
  expect((await of("silent 1")).problem).toMatch(/timeout|aborted/i);
  await db.delete(outbox).where(eq(outbox.target, target));
  await Promise.all(senders.map((sender) => sender.sendAll()));
  silent.close();
});
