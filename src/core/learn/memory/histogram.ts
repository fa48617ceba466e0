/** Bins of one column, by row: one byte a row, or two where there are more than 256. */
export type Bins = Uint8Array | Uint16Array;

/** What trees read of the rows: shared between threads. */
export interface HistogramArrays {
  readonly bins: readonly Bins[];
  /** Rows, those of a node side by side. */
  readonly order: Uint32Array;
  /** In the order of `order`: gradients (or weights for gini), curvatures, how often the row counts, class. */
  readonly gradients: Float64Array;
  readonly curvatures: Float64Array;
  readonly counts: Uint8Array;
  /** Only for gini. */
  readonly classes: Uint16Array;
}

/** One column of one node: rows order[from] to order[to - 1] are summed into `offset` of the answers. */
export interface HistogramTask {
  readonly column: number;
  readonly from: number;
  readonly to: number;
  readonly offset: number;
}

/** Several threads that sum histograms. Each task is done by one thread alone, so that its sum does not depend on how many there are. */
export interface HistogramTeam {
  /** Gives the threads the arrays to read and to write. */
  readonly begin: (arrays: HistogramArrays, answers: Float64Array, statistics: number) => void;
  readonly run: (tasks: readonly HistogramTask[]) => Promise<void>;
}

/** Gradients, curvatures and rows by bin. */
function addGradients(bins: Bins, arrays: HistogramArrays, task: HistogramTask, answers: Float64Array): void {
  const { order, gradients, curvatures, counts } = arrays;
  const { from, to, offset } = task;
  for (let index = from; index < to; index += 1) {
    const at = offset + 3 * bins[order[index]!]!;
    answers[at]! += gradients[index]!;
    answers[at + 1]! += curvatures[index]!;
    answers[at + 2]! += counts[index]!;
  }
}

/** Weight of each class, and rows, by bin. */
function addClasses(bins: Bins, arrays: HistogramArrays, task: HistogramTask, answers: Float64Array, statistics: number): void {
  const { order, gradients, classes, counts } = arrays;
  const { from, to, offset } = task;
  for (let index = from; index < to; index += 1) {
    const at = offset + statistics * bins[order[index]!]!;
    answers[at + classes[index]!]! += gradients[index]!;
    answers[at + statistics - 1]! += counts[index]!;
  }
}

/** Sums one task. The answers must be 0 where it writes. */
export function sumHistogram(arrays: HistogramArrays, task: HistogramTask, answers: Float64Array, statistics: number, gini: boolean): void {
  const bins = arrays.bins[task.column]!;
  if (gini) addClasses(bins, arrays, task, answers, statistics);
  else addGradients(bins, arrays, task, answers);
}
