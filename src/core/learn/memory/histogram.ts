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
  readonly begin: (arrays: HistogramArrays, answers: Float64Array, statistics: number, gini: boolean) => void;
  /** @param once whether every row counts once, so that counts need not be read */
  readonly run: (tasks: readonly HistogramTask[], once: boolean) => Promise<void>;
}

/** Gradients, curvatures and rows by bin. */
function addGradients(bins: Bins, arrays: HistogramArrays, { from, to, offset }: HistogramTask, answers: Float64Array): void {
  const { order, gradients, curvatures, counts } = arrays;
  for (let index = from; index < to; index += 1) {
    const at = offset + 3 * bins[order[index]!]!;
    answers[at]! += gradients[index]!;
    answers[at + 1]! += curvatures[index]!;
    answers[at + 2]! += counts[index]!;
  }
}

/** The same for two columns at once, where every row counts once: about half the time, since rows are read once for both. */
function addPair(first: Bins, second: Bins, arrays: HistogramArrays, { from, to, offset }: HistogramTask, other: number, answers: Float64Array): void {
  const { order, gradients, curvatures } = arrays;
  for (let index = from; index < to; index += 1) {
    const row = order[index]!;
    const gradient = gradients[index]!;
    const curvature = curvatures[index]!;
    const at = offset + 3 * first[row]!;
    answers[at] = answers[at]! + gradient;
    answers[at + 1] = answers[at + 1]! + curvature;
    answers[at + 2] = answers[at + 2]! + 1;
    const where = other + 3 * second[row]!;
    answers[where] = answers[where]! + gradient;
    answers[where + 1] = answers[where + 1]! + curvature;
    answers[where + 2] = answers[where + 2]! + 1;
  }
}

/** Weight of each class, and rows, by bin. */
function addClasses(bins: Bins, arrays: HistogramArrays, { from, to, offset }: HistogramTask, answers: Float64Array, statistics: number): void {
  const { order, gradients, classes, counts } = arrays;
  for (let index = from; index < to; index += 1) {
    const at = offset + statistics * bins[order[index]!]!;
    answers[at + classes[index]!]! += gradients[index]!;
    answers[at + statistics - 1]! += counts[index]!;
  }
}

/** Sums tasks, neighbouring columns of one node together. The answers must be 0 where they are written. */
export function sumHistograms(arrays: HistogramArrays, tasks: readonly HistogramTask[], answers: Float64Array, statistics: number, gini: boolean, once: boolean): void {
  for (let place = 0; place < tasks.length; place += 1) {
    const task = tasks[place]!;
    const next = tasks[place + 1];
    const bins = arrays.bins[task.column]!;
    if (gini) addClasses(bins, arrays, task, answers, statistics);
    else if (once && next && next.from === task.from && next.to === task.to) {
      addPair(bins, arrays.bins[next.column]!, arrays, task, next.offset, answers);
      place += 1;
    } else addGradients(bins, arrays, task, answers);
  }
}
