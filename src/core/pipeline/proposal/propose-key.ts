import type { ValueType } from "../../value-type";
import type { ColumnOutline, TableOutline } from "./outline";

const NAMING: ReadonlySet<ValueType> = new Set(["smallint", "integer", "bigint", "numeric", "text", "uuid"]);
const LIKE_A_NUMBER = /(^|[_\s-])(id|nr|no|number|key|code|uuid)$/i;

/** Columns that could name one row, by their type and by the values that were looked at; the likeliest first. */
export function keyCandidates({ columns, close }: TableOutline): readonly ColumnOutline[] {
  const able = columns.filter(
    ({ type, missing, distinct }) => NAMING.has(type) && missing === 0 && distinct === close,
  );
  return [
    ...able.filter(({ name }) => LIKE_A_NUMBER.test(name)),
    ...able.filter(({ name }) => !LIKE_A_NUMBER.test(name)),
  ];
}

/** A key for rows of a table, and where it comes from. */
export interface KeyProposal {
  readonly columns: readonly string[];
  readonly because: string;
}

/** The key that a table suggests: the one that the warehouse keeps, else columns whose values are all different. */
export function proposeKey(outline: TableOutline): KeyProposal | undefined {
  const [kept] = outline.keys;
  if (kept) return { columns: kept, because: "the table's primary key" };
  if (outline.close < 2) return undefined;
  const [likely] = keyCandidates(outline);
  if (likely) return { columns: [likely.name], because: "all values are distinct" };
  return outline.pair && { columns: outline.pair, because: "distinct in combination" };
}
