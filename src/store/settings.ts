import { eq } from "drizzle-orm";
import { z } from "zod";
import type { WarehouseLogin } from "@/warehouse/connection";
import type { WarehouseConfig } from "@/warehouse/warehouse";
import type { Database } from "./database";
import { settings, warehouses } from "./schema";
import { decrypt, encrypt } from "./secrets";

const CLOCK = "clock";
const clockSchema = z.object({ offsetMilliseconds: z.number() });

/** How far the application's clock is from the computer's, in milliseconds. 0 except in the demo. */
export async function clockOffset(db: Database): Promise<number> {
  const [row] = await db.select().from(settings).where(eq(settings.key, CLOCK));
  const parsed = clockSchema.safeParse(row?.value);
  return parsed.success ? parsed.data.offsetMilliseconds : 0;
}

export async function setClockOffset(db: Database, offsetMilliseconds: number): Promise<void> {
  const value = { offsetMilliseconds };
  await db.insert(settings).values({ key: CLOCK, value }).onConflictDoUpdate({ target: settings.key, set: { value } });
}

const loginSchema = z.object({ host: z.string(), port: z.number(), database: z.string(), user: z.string(), password: z.string() }) satisfies z.ZodType<WarehouseLogin>;

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

export async function saveWarehouse(db: Database, name: string, config: WarehouseConfig, key: Buffer): Promise<void> {
  const values = { name, reader: encrypt(config.reader, key), writer: encrypt(config.writer, key), outputSchema: config.outputSchema, scratchSchema: config.scratchSchema, importSchema: config.importSchema };
  await db.transaction(async (tx) => {
    await tx.delete(warehouses);
    await tx.insert(warehouses).values(values);
  });
}
