import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import type { WarehouseLogin } from "@/warehouse/port/engine";
import type { WarehouseConfig } from "@/warehouse/port/engine";
import type { Database } from "./database";
import { settings, warehouses } from "./schema";
import { decrypt, encrypt } from "./secrets";

const CLOCK = "clock";
const clockSchema = z.object({
  offsetMilliseconds: z.number(),
  /** What a clock that is not the computer's showed last. */
  reached: z.coerce.date().optional(),
});

/** How far the application's clock is from the computer's, in milliseconds. 0 except in the demo. */
export async function clockOffset(db: Database): Promise<number> {
  return (await setting(db, CLOCK, clockSchema))?.offsetMilliseconds ?? 0;
}

export async function setClockOffset(db: Database, offsetMilliseconds: number): Promise<void> {
  await keepSetting(db, CLOCK, { offsetMilliseconds });
}

/** What the application's clock showed last, where it is not the computer's: from there it goes on after a stop. */
export const clockReached = async (db: Database): Promise<Date | undefined> =>
  (await setting(db, CLOCK, clockSchema))?.reached;

/** Notes what the application's clock shows, where it is not the computer's. */
export async function noteClock(db: Database, computerTime: Date): Promise<void> {
  await db
    .update(settings)
    .set({
      value: sql`${settings.value} || jsonb_build_object('reached', to_timestamp((${computerTime.getTime()}::float8 + (${settings.value} ->> 'offsetMilliseconds')::float8) / 1000))`,
    })
    .where(eq(settings.key, CLOCK));
}

const START = "start";
const startSchema = z.object({ at: z.coerce.date() });

/** When this installation was last started, on the application's clock: what was due before was due while nobody watched. */
export const lastStart = async (db: Database): Promise<Date | undefined> =>
  (await setting(db, START, startSchema))?.at;

export const noteStart = (db: Database, at: Date): Promise<void> => keepSetting(db, START, { at });

const DEMO = "demo";
const demoSchema = z.object({
  /** Size of the demo's data. */
  scale: z.number(),
  /** Up to when things have happened in its tables. */
  until: z.coerce.date(),
  /** Until when time shall pass, as somebody wished. */
  wish: z.coerce.date().nullable(),
});
export type DemoState = z.infer<typeof demoSchema>;

/** How it stands with the demo's time; undefined where there is no demo. */
export const demoState = (db: Database): Promise<DemoState | undefined> => setting(db, DEMO, demoSchema);

export const setDemoState = (db: Database, value: DemoState): Promise<void> => keepSetting(db, DEMO, value);

const DEMO_SETUP = "demo_setup";
const setupSchema = z.object({
  /**
   * wished: by somebody, and not begun. tables: they are being made. training: its pipelines are, one
   * after the other.
   */
  stage: z.enum(["wished", "tables", "training", "ready", "failed"]),
  /** Why it failed. */
  problem: z.string().optional(),
});
export type DemoSetup = z.infer<typeof setupSchema>;

/** How far the demo is set up; undefined where nobody wished it. */
export const demoSetup = (db: Database): Promise<DemoSetup | undefined> =>
  setting(db, DEMO_SETUP, setupSchema);

export const setDemoSetup = (db: Database, value: DemoSetup): Promise<void> =>
  keepSetting(db, DEMO_SETUP, value);

/** Wishes that time passes in the demo, up to a moment; null takes that back. */
export async function wishDemoTime(db: Database, wish: Date | null): Promise<boolean> {
  const changed = await db
    .update(settings)
    .set({ value: sql`jsonb_set(${settings.value}, '{wish}', ${JSON.stringify(wish)}::jsonb)` })
    .where(eq(settings.key, DEMO))
    .returning({ key: settings.key });
  return changed.length > 0;
}

/** Notes up to when things have happened in the demo's tables. */
export async function noteDemoTime(db: Database, until: Date): Promise<void> {
  await db
    .update(settings)
    .set({ value: sql`jsonb_set(${settings.value}, '{until}', ${JSON.stringify(until)}::jsonb)` })
    .where(eq(settings.key, DEMO));
}

const KEEPING = "keeping";
/** How long what runs leave behind is kept. */
export const keepingSchema = z.object({
  /** Days after which statements and logs of runs go. The runs themselves, their steps and what they delivered stay on record. */
  recordDays: z.number().int().min(1).max(3650),
  /** Hours for which the staged rows of a run that failed are kept, for it to go on from. */
  stageHours: z.number().int().min(1).max(8760),
});
export type Keeping = z.infer<typeof keepingSchema>;
const NOTIFY = "notify";
/** Who hears of alerts, beside those who look at Today. */
export const notifySchema = z.object({
  webhook: z.url({ protocol: /^https?$/ }).nullable(),
  mail: z
    .object({ server: z.string().regex(/^[^\s:]+:\d{1,5}$/), from: z.email(), to: z.email() })
    .nullable(),
  /** Alerts that came up earlier are no news. */
  since: z.coerce.date(),
});
export type Notify = z.infer<typeof notifySchema>;
export const readNotify = async (db: Database): Promise<Notify> =>
  (await setting(db, NOTIFY, notifySchema)) ?? { webhook: null, mail: null, since: new Date() };
export const setNotify = (db: Database, notify: Notify): Promise<void> => keepSetting(db, NOTIFY, notify);

const CLEANED = "cleaned";
const cleanedSchema = z.object({ at: z.coerce.date(), runs: z.number(), tables: z.number() });
export type Cleaned = z.infer<typeof cleanedSchema>;

async function setting<T>(db: Database, key: string, schema: z.ZodType<T>): Promise<T | undefined> {
  const [row] = await db.select().from(settings).where(eq(settings.key, key));
  const parsed = schema.safeParse(row?.value);
  return parsed.success ? parsed.data : undefined;
}

async function keepSetting(db: Database, key: string, value: unknown): Promise<void> {
  await db
    .insert(settings)
    .values({ key, value })
    .onConflictDoUpdate({ target: settings.key, set: { value } });
}

export const readKeeping = async (db: Database): Promise<Keeping> =>
  (await setting(db, KEEPING, keepingSchema)) ?? { recordDays: 90, stageHours: 24 };
export const setKeeping = (db: Database, keeping: Keeping): Promise<void> =>
  keepSetting(db, KEEPING, keeping);
/** When was last cleaned, and what went. */
export const readCleaned = (db: Database): Promise<Cleaned | undefined> =>
  setting(db, CLEANED, cleanedSchema);
export const noteCleaned = (db: Database, cleaned: Cleaned): Promise<void> =>
  keepSetting(db, CLEANED, cleaned);

const loginSchema = z.object({
  host: z.string(),
  port: z.number(),
  database: z.string(),
  user: z.string(),
  password: z.string(),
}) satisfies z.ZodType<WarehouseLogin>;

/** The warehouse, its logins decrypted; undefined before one is set. */
export async function readWarehouse(db: Database, key: Buffer): Promise<WarehouseConfig | undefined> {
  const [row] = await db.select().from(warehouses).limit(1);
  if (!row) return undefined;
  return {
    reader: loginSchema.parse(decrypt(row.reader, key)),
    writer: loginSchema.parse(decrypt(row.writer, key)),
    outputSchema: row.outputSchema,
    scratchSchema: row.scratchSchema,
    importSchema: row.importSchema,
  };
}

/** Another one after each time that a warehouse was saved; undefined where there is none. */
export async function warehouseMark(db: Database): Promise<number | undefined> {
  const [row] = await db.select({ id: warehouses.id }).from(warehouses).limit(1);
  return row?.id;
}

export async function saveWarehouse(
  db: Database,
  name: string,
  config: WarehouseConfig,
  key: Buffer,
): Promise<void> {
  const values = {
    name,
    reader: encrypt(config.reader, key),
    writer: encrypt(config.writer, key),
    outputSchema: config.outputSchema,
    scratchSchema: config.scratchSchema,
    importSchema: config.importSchema,
  };
  await db.transaction(async (tx) => {
    await tx.delete(warehouses);
    await tx.insert(warehouses).values(values);
  });
}
