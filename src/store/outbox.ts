import { and, desc, eq, lte, notInArray, sql } from "drizzle-orm";
import type { Database } from "./database";
import { outbox } from "./schema";

export type MessageRow = typeof outbox.$inferSelect;
export type NewMessage = Pick<
  typeof outbox.$inferInsert,
  "kind" | "target" | "subject" | "body" | "key" | "runId"
>;

/** Puts messages into the outbox; one that is there already stays as it is. */
export async function addMessages(db: Database, messages: readonly NewMessage[]): Promise<void> {
  if (messages.length > 0)
    await db
      .insert(outbox)
      .values([...messages])
      .onConflictDoNothing();
}

/**
 * Takes the oldest message whose time has come, for one sender only: while it tries, nobody else does.
 * @param seconds after which another may try, unless the sender keeps it
 * @param except receivers to whom something is being sent
 */
export async function takeMessage(
  db: Database,
  seconds: number,
  except: readonly string[],
): Promise<MessageRow | undefined> {
  const due = db
    .select({ id: outbox.id })
    .from(outbox)
    .where(
      and(
        eq(outbox.state, "waiting"),
        lte(outbox.nextAt, sql`now()`),
        except.length > 0 ? notInArray(outbox.target, [...except]) : undefined,
      ),
    )
    .orderBy(outbox.id)
    .limit(1)
    .for("update", { skipLocked: true });
  const [taken] = await db
    .update(outbox)
    .set({ nextAt: sql`now() + make_interval(secs => ${seconds})`, attempts: sql`${outbox.attempts} + 1` })
    .where(sql`${outbox.id} IN (${due})`)
    .returning();
  return taken;
}

/** The attempt that a sender makes, if no other has begun meanwhile. */
const attemptOf = ({ id, attempts }: Pick<MessageRow, "id" | "attempts">) =>
  and(eq(outbox.id, id), eq(outbox.attempts, attempts), eq(outbox.state, "waiting"));

/** Keeps a message that is still being sent for its sender. */
export async function keepMessage(db: Database, message: MessageRow, seconds: number): Promise<void> {
  await db
    .update(outbox)
    .set({ nextAt: sql`now() + make_interval(secs => ${seconds})` })
    .where(attemptOf(message));
}

export async function messageSent(db: Database, { id }: MessageRow): Promise<void> {
  await db
    .update(outbox)
    .set({ state: "sent", sentAt: sql`now()`, problem: null })
    .where(eq(outbox.id, id));
}

/** Notes that a message did not arrive; it is tried again after so many seconds, or given up. */
export async function messageFailed(
  db: Database,
  message: MessageRow,
  problem: string,
  again: number | undefined,
): Promise<void> {
  await db
    .update(outbox)
    .set({
      problem,
      ...(again === undefined
        ? { state: "given up" as const }
        : { nextAt: sql`now() + make_interval(secs => ${again})` }),
    })
    .where(attemptOf(message));
}

/** Tries a message again that was given up, or waits. */
export async function sendAgain(db: Database, id: number): Promise<void> {
  await db
    .update(outbox)
    .set({ state: "waiting", attempts: 0, nextAt: sql`now()` })
    .where(and(eq(outbox.id, id), sql`${outbox.state} <> 'sent'`));
}

/** The newest messages. */
export async function listMessages(db: Database, most: number): Promise<readonly MessageRow[]> {
  return db.select().from(outbox).orderBy(desc(outbox.id)).limit(most);
}
