import { rowCountQuestion } from "@/core/questions/row-count";
import type { Relation } from "@/core/relation/relation";
import type { WarehouseSession } from "@/warehouse/port/session";

/** Columns of numbers, as arrays of all their rows. */
export interface ReadNumbers {
  readonly rows: number;
  readonly columns: readonly Float64Array[];
}

/** Counts rows and reads columns of them as double precision. */
export async function readNumbers(
  session: WarehouseSession,
  relation: Relation,
  names: readonly string[],
  { count, read }: { readonly count: string; readonly read: string },
): Promise<ReadNumbers> {
  const rows = await session.ask(rowCountQuestion(relation, count));
  const columns = names.map(() => new Float64Array(rows));
  await session.stream({
    relation,
    purpose: read,
    doubles: names.map((name, place) => ({ name, values: columns[place]! })),
    integers: [],
    rows,
  });
  return { rows, columns };
}
