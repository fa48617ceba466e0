import { outputColumns, type Relation } from "../relation/relation";

/** Columns of a relation that are no indicator of an encoded category: those share the completeness of their source. */
export const measurableColumns = (relation: Relation): readonly string[] =>
  outputColumns(relation).filter((name) => !name.includes("="));
