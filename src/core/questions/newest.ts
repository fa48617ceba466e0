import { asDouble, binary, call, cast, column, integer } from "../expression/ast";
import { table, type TableReference } from "../relation/relation";
import { numbersOf } from "./groups";
import type { Question } from "./question";

/** The newest moment in a column, in milliseconds since 1970; undefined where there is none. */
export function newestQuestion(source: TableReference, name: string): Question<number | undefined> {
  const newest = cast(call("max", column(name)), "timestamptz");
  const seconds = asDouble({ kind: "extract", field: "epoch", operand: newest });
  const { relation, read } = numbersOf(table(source, [name]), [binary(seconds, "*", integer(1000))]);
  return { relation, purpose: `newest ${name}`, read: (rows) => read(rows)[0] ?? undefined };
}
