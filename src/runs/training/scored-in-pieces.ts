import type { Model } from "@/core/learn/model";
import { pieceRelations } from "@/core/plan/score-pieces";
import { pruneUnread } from "@/core/relation/prune";
import type { Relation, TableReference } from "@/core/relation/relation";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Pace } from "../pace";

/** Where and how rows are scored piece by piece. */
export interface PieceWork {
  readonly session: WarehouseSession;
  readonly pace: Pace;
  /** Nodes of trees in a statement; what a statement can hold when left out. */
  readonly most?: number;
}

/**
 * Scores a table of rows inside the warehouse with a model of more trees than a statement holds: piece by piece, from one scratch table
 * of sums to the next. No row leaves.
 * @param inputs numbered rows, with the features as the model reads them
 * @param outputs the table that is made: the rows' columns and the numbers of the prediction
 * @param columns the columns of the rows
 */
export async function scoreInPieces(
  { session, pace, most }: PieceWork,
  { inputs, outputs }: { readonly inputs: TableReference; readonly outputs: TableReference },
  model: Model,
  columns: readonly string[],
): Promise<void> {
  const relations = pieceRelations(inputs, columns, model, most);
  if (!relations) throw new Error(`${model.algorithm} is no sum of trees`);
  const make = async (into: TableReference, relation: Relation, purpose: string): Promise<void> => {
    const needed = pruneUnread(relation);
    await session.materialize(needed, into, purpose);
    await pace.breathe();
  };
  const sums = (piece: number): TableReference => ({
    schema: outputs.schema,
    table: `${outputs.table}s${piece}`,
  });
  await make(sums(0), relations.start, "sums before the first tree");
  for (const [index, piece] of relations.pieces.entries()) {
    pace.progress("pieces of the model", index, relations.pieces.length);
    await make(
      sums(index + 1),
      piece(sums(index)),
      `trees, piece ${index + 1} of ${relations.pieces.length}`,
    );
    await session.drop(sums(index), "drop a scratch table");
  }
  const last = sums(relations.pieces.length);
  await make(outputs, relations.finish(last), "rows with their predictions");
  await session.drop(last, "drop a scratch table");
}
