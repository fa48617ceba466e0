/** How well one class is told apart from all others. */
export interface ClassRow {
  /** Of the rows predicted to be of the class, how many are; null where none was. */
  readonly precision: number | null;
  /** Of the rows of the class, how many are found; null where there are none. */
  readonly recall: number | null;
  /** Harmonic mean of both; 0 where nothing of the class was found. */
  readonly f1: number;
  /** Rows of the class, by weight. */
  readonly support: number;
}

export interface ClassReport {
  readonly classes: readonly ClassRow[];
  /** Means over classes, each counting once; what is missing counts 0. */
  readonly macro: ClassRow;
  /** Means over classes, each counting by its rows. */
  readonly weighted: ClassRow;
}

/**
 * Precision, recall, F1 and support of every class, with their means (Sokolova and Lapalme: A systematic analysis of performance
 * measures for classification tasks, Information Processing and Management 45 (2009), table 3).
 * @param matrix how often each class was taken for each: matrix[answer][prediction]
 */
export function classReport(matrix: readonly (readonly number[])[]): ClassReport {
  const classes = matrix.map((row, code): ClassRow => {
    const support = row.reduce((sum, count) => sum + count, 0);
    const predicted = matrix.reduce((sum, other) => sum + other[code]!, 0);
    const hits = row[code]!;
    return {
      precision: predicted > 0 ? hits / predicted : null,
      recall: support > 0 ? hits / support : null,
      f1: hits > 0 ? (2 * hits) / (support + predicted) : 0,
      support,
    };
  });
  return {
    classes,
    macro: meanOf(classes, () => 1),
    weighted: meanOf(classes, ({ support }) => support),
  };
}

function meanOf(classes: readonly ClassRow[], weightOf: (row: ClassRow) => number): ClassRow {
  const total = classes.reduce((sum, row) => sum + weightOf(row), 0);
  const mean = (valueOf: (row: ClassRow) => number | null): number =>
    total === 0 ? 0 : classes.reduce((sum, row) => sum + weightOf(row) * (valueOf(row) ?? 0), 0) / total;
  return {
    precision: mean(({ precision }) => precision),
    recall: mean(({ recall }) => recall),
    f1: mean(({ f1 }) => f1),
    support: classes.reduce((sum, { support }) => sum + support, 0),
  };
}
