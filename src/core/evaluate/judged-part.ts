/** Rows that a version scored when it was trained: those that judge, some or all that trained, and those that stay closed. */
export const JUDGED_PARTS = ["holdout", "training", "blind"] as const;
export type JudgedPart = (typeof JUDGED_PARTS)[number];

/** The tables that keep them, as far as there are any. */
export interface PartTables {
  readonly holdoutTable?: string;
  readonly trainedTable?: string;
  readonly blindTable?: string;
}

/**
 * The parts that can be looked at, those that judge first.
 * @param opened whether the blind part has been opened
 */
export function partsToSee(tables: PartTables, opened: boolean): readonly JudgedPart[] {
  return JUDGED_PARTS.filter(
    (part) => tableOfPart(tables, part) !== undefined && (part !== "blind" || opened),
  );
}

/** The table that keeps a part. */
export function tableOfPart(tables: PartTables, part: JudgedPart): string | undefined {
  switch (part) {
    case "holdout":
      return tables.holdoutTable;
    case "training":
      return tables.trainedTable;
    case "blind":
      return tables.blindTable;
  }
}
