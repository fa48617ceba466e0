import type { Relation, TableReference } from "@/core/relation/relation";
import { canonicalJson, sha256 } from "@/core/hash";
import { keepResult, keptResult } from "@/store/run-results";
import { sealedTable, sealTable, type SealedTable } from "../scratch";
import type { Workshop } from "./workshop";

/** What the sources hold, as a hash; nothing when it cannot be known, as of a view. */
export function holdsOf(fingerprints: Readonly<Record<string, { readonly marker: string }>>): {
  readonly holds?: string;
} {
  const markers = Object.entries(fingerprints).map(([name, { marker }]) => [name, marker]);
  return markers.some(([, marker]) => marker === "") ? {} : { holds: sha256(canonicalJson(markers)) };
}

/** A hash of all that a result depends on, besides the file and what the sources hold, which every result does. */
const madeFrom = (shop: Workshop, inputs: unknown): string =>
  sha256(canonicalJson([shop.plan.hash, shop.recorder.run.runTime.toISOString(), shop.holds, inputs]));

/**
 * Does a part of the work that takes long, or takes what an earlier attempt of the run came to, if that was made
 * from the same.
 * @param name the part, one of its kind within the run
 * @param inputs what the result depends on, besides the file and the sources
 * @returns what came out, as JSON can hold it, and whether it was there already
 */
export async function onceKept<T>(
  shop: Workshop,
  name: string,
  inputs: unknown,
  work: () => Promise<T>,
): Promise<{ readonly value: T; readonly kept: boolean }> {
  const { db } = shop.context.store;
  const part = { runId: shop.recorder.run.id, name, madeFrom: madeFrom(shop, inputs) };
  const earlier = shop.holds === undefined ? undefined : await keptResult(db, part);
  if (earlier !== undefined) return { value: earlier as T, kept: true };
  const value = await work();
  if (shop.holds !== undefined) await keepResult(db, { ...part, value });
  return { value, kept: false };
}

/**
 * Makes a scratch table of a relation, or takes the complete one of an earlier attempt that was made of the same
 * from the same rows.
 */
export async function tableOnce(
  shop: Workshop,
  purpose: "base" | "frame",
  relation: Relation,
  says: string,
): Promise<SealedTable & { readonly kept: boolean }> {
  const { session, recorder, context } = shop;
  const { id } = recorder.run;
  const seal = { purpose, madeFrom: madeFrom(shop, canonicalJson(relation)) };
  const earlier = shop.holds === undefined ? undefined : await sealedTable(session, context, id, seal);
  if (earlier) return { ...earlier, kept: true };
  const table = shop.scratch(purpose);
  const rows = await makeTable(shop, table, relation, says);
  if (shop.holds !== undefined) await sealTable(context, id, table, { ...seal, rows });
  return { table, rows, kept: false };
}

/** Makes a scratch table of a relation, in the place of one that may be there; gives its rows. */
export async function makeTable(
  { session }: Workshop,
  table: TableReference,
  relation: Relation,
  says: string,
): Promise<number> {
  await session.drop(table, "remove an earlier one");
  return session.materialize(relation, table, says);
}
