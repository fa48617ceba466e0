import { withInputs, type Relation } from "../relation/relation";

/** Stands for the base table that a run would build. No schema of a warehouse can have this name. */
export const UNBUILT_BASE = { schema: "\0", table: "base" } as const;

/** Puts the base query where a relation reads the (not yet existing) base table. */
export function withBase(relation: Relation, base: Relation): Relation {
  if (relation.kind === "table") return relation.source.schema === UNBUILT_BASE.schema ? base : relation;
  return withInputs(relation, (input) => withBase(input, base));
}
