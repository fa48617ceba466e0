"use server";
import { revalidatePath } from "next/cache";
import { z } from "zod";
import { findTable } from "@/core/plan/catalog";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { describeColumn, putTableFacts } from "@/store/table-facts";
import { readCatalog } from "@/warehouse/catalog";
import type { Outcome } from "./actions";
import { appContext } from "./context";

const tableSchema = z.object({ schema: z.string(), table: z.string() });
type Reference = z.infer<typeof tableSchema>;
type Facts = Awaited<ReturnType<typeof appContext>>["store"]["db"];

/** Changes what we keep of a table that exists. */
async function change(
  reference: Reference,
  work: (db: Facts, reference: Reference) => Promise<void>,
): Promise<Outcome> {
  try {
    const { store, warehouse } = await appContext();
    const known = findTable(await readCatalog(warehouse), tableSchema.parse(reference));
    if (!known) return { ok: false, problems: [problem("unknown_table", "There is no such table.")] };
    await work(store.db, { schema: known.schema, table: known.table });
    revalidatePath("/tables", "layout");
    return { ok: true, value: undefined };
  } catch (error) {
    return { ok: false, problems: problemsOf(error) };
  }
}

const words = z
  .string()
  .max(2000)
  .transform((text) => text.trim());

/** Describes a table, or one of its columns. An empty text takes the description away. */
export async function describe(
  reference: Reference,
  column: string | undefined,
  text: string,
): Promise<Outcome> {
  return change(reference, (db, known) =>
    column === undefined
      ? putTableFacts(db, known, { description: words.parse(text) || null })
      : describeColumn(db, known, z.string().parse(column), words.parse(text)),
  );
}

/** Asks for a fresh profile; a worker takes it. */
export async function askProfile(reference: Reference): Promise<Outcome> {
  return change(reference, (db, known) =>
    putTableFacts(db, known, { profileAskedAt: new Date(), profileProblem: null }),
  );
}

/** How often the profile is taken anew by itself, in hours; null: only on request. */
export async function scheduleProfile(reference: Reference, hours: number | null): Promise<Outcome> {
  return change(reference, (db, known) =>
    putTableFacts(db, known, { refreshHours: z.int().min(1).max(8784).nullable().parse(hours) }),
  );
}
