/**
 * The innermost loops of trees, in AssemblyScript. `npm run kernels` compiles them to src/core/learn/memory/kernels/tree-kernels.ts.
 *
 * Every row has a record of `stride` bytes: 16 bytes of statistics, that is two whole numbers of 64 bits that are summed, and then
 * its bins, one byte a column, or two where a column has more than 256 bins. Sums of whole numbers are exact in whatever order they
 * are taken. Rows of a node lie side by side: order[from] to order[to - 1] are their numbers.
 */

/** Rows whose records are touched before they are used, so that the processor fetches several at once. */
const AHEAD: u32 = 32;

/** Touches the records of rows. @returns something that depends on them, or the compiler would leave it out */
@inline
function touch(order: usize, from: u32, to: u32, records: usize, stride: u32): u32 {
  let sum: u32 = 0;
  for (let place = from; place < to; place++) {
    const record = records + <usize>load<u32>(order + (<usize>place << 2)) * stride;
    sum |= <u32>load<u8>(record) | <u32>load<u8>(record + stride - 1);
  }
  return sum;
}

/**
 * Adds rows to the histograms of columns of at most 256 bins, four columns at a time. A histogram has 256 places of 16 bytes.
 * @param columns number of columns, a multiple of four; they lie side by side behind the statistics
 * @returns nothing of use: see touch
 */
export function addFours(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: u32, answers: usize): u32 {
  let touched: u32 = 0;
  for (let begin = from; begin < to; begin += AHEAD) {
    const until = min<u32>(to, begin + AHEAD);
    touched |= touch(order, begin, until, records, stride);
    for (let place = begin; place < until; place++) {
      const record = records + <usize>load<u32>(order + (<usize>place << 2)) * stride;
      const sums = v128.load(record);
      let at = record + 16;
      let out = answers;
      for (const end = at + columns; at < end; at += 4) {
        const four = load<u32>(at);
        const first = out + ((four & 255) << 4);
        v128.store(first, i64x2.add(v128.load(first), sums));
        const second = out + ((four >>> 4) & 4080);
        v128.store(second, i64x2.add(v128.load(second, 4096), sums), 4096);
        const third = out + ((four >>> 12) & 4080);
        v128.store(third, i64x2.add(v128.load(third, 8192), sums), 8192);
        const fourth = out + ((four >>> 20) & 4080);
        v128.store(fourth, i64x2.add(v128.load(fourth, 12288), sums), 12288);
        out += 16384;
      }
    }
  }
  return touched;
}

@inline
function addListed<T>(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize): void {
  const end = columns + (<usize>count << 3);
  for (let place = from; place < to; place++) {
    const record = records + <usize>load<u32>(order + (<usize>place << 2)) * stride;
    const sums = v128.load(record);
    for (let column = columns; column < end; column += 8) {
      const out = answers + load<u32>(column, 4) + (<usize>load<T>(record + load<u32>(column)) << 4);
      v128.store(out, i64x2.add(v128.load(out), sums));
    }
  }
}

/** The same for columns picked from a list of pairs: where a column lies within a record, and where its histogram begins. */
export function addNarrow(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize): void {
  addListed<u8>(order, from, to, records, stride, columns, count, answers);
}

/** The same for columns of more than 256 bins. */
export function addWide(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize): void {
  addListed<u16>(order, from, to, records, stride, columns, count, answers);
}

@inline
function addClassesListed<T>(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize, size: u32): void {
  const end = columns + (<usize>count << 3);
  const last = (<usize>size - 1) << 3;
  for (let place = from; place < to; place++) {
    const record = records + <usize>load<u32>(order + (<usize>place << 2)) * stride;
    const weight = load<i64>(record);
    const second = <u32>load<u64>(record, 8);
    const own = <usize>(second >>> 1) << 3;
    const counts = <i64>(second & 1);
    for (let column = columns; column < end; column += 8) {
      const out = answers + load<u32>(column, 4) + <usize>load<T>(record + load<u32>(column)) * (<usize>size << 3);
      store<i64>(out + own, load<i64>(out + own) + weight);
      store<i64>(out + last, load<i64>(out + last) + counts);
    }
  }
}

/** Adds weights by class: statistics are a weight, and twice the class plus whether the row counts. A bin has `size` sums: one per class, then rows. */
export function addClassesNarrow(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize, size: u32): void {
  addClassesListed<u8>(order, from, to, records, stride, columns, count, answers, size);
}

/** The same for columns of more than 256 bins. */
export function addClassesWide(order: usize, from: u32, to: u32, records: usize, stride: u32, columns: usize, count: u32, answers: usize, size: u32): void {
  addClassesListed<u16>(order, from, to, records, stride, columns, count, answers, size);
}

@inline
function partition<T>(order: usize, from: u32, to: u32, bins: usize, goesLeft: usize, spare: usize): u32 {
  let kept = from;
  let right: u32 = 0;
  for (let place = from; place < to; place++) {
    const row = load<u32>(order + (<usize>place << 2));
    const left = <u32>load<u8>(goesLeft + <usize>load<T>(bins + <usize>row * sizeof<T>()));
    // Written to both sides: a branch would be guessed wrong half of the time.
    store<u32>(order + (<usize>kept << 2), row);
    store<u32>(spare + (<usize>right << 2), row);
    kept += left;
    right += 1 - left;
  }
  memory.copy(order + (<usize>kept << 2), spare, <usize>right << 2);
  return kept;
}

/**
 * Puts rows that go left first, each side in its earlier order.
 * @param bins of the column that splits, row after row: they are close together there, unlike in the records
 * @param goesLeft for each bin whether it goes left (1) or right (0)
 * @returns where the right side begins
 */
export function partitionNarrow(order: usize, from: u32, to: u32, bins: usize, goesLeft: usize, spare: usize): u32 {
  return partition<u8>(order, from, to, bins, goesLeft, spare);
}

/** The same by a column of more than 256 bins. */
export function partitionWide(order: usize, from: u32, to: u32, bins: usize, goesLeft: usize, spare: usize): u32 {
  return partition<u16>(order, from, to, bins, goesLeft, spare);
}

/**
 * Begins a tree: all rows in order, and their statistics as whole numbers: the gradient; and the curvature shifted left by
 * `countBits`, plus 1 when the row counts. Their sums go to `total`.
 * @param counts how often each row is in the sample
 */
export function pack(rows: u32, order: usize, records: usize, stride: u32, gradients: usize, curvatures: usize, counts: usize, gradientScale: f64, curvatureScale: f64, countBits: u32, total: usize): void {
  let allFirst: i64 = 0;
  let allSecond: i64 = 0;
  for (let row: u32 = 0; row < rows; row++) {
    const often = <i64>load<u8>(counts + row);
    const first = <i64>floor<f64>(load<f64>(gradients + (<usize>row << 3)) * gradientScale + 0.5) * often;
    const curvature = <i64>floor<f64>(load<f64>(curvatures + (<usize>row << 3)) * curvatureScale + 0.5) * often;
    const second = (curvature << countBits) | <i64>(often > 0);
    store<u32>(order + (<usize>row << 2), row);
    store<i64>(records, first);
    store<i64>(records, second, 8);
    allFirst += first;
    allSecond += second;
    records += stride;
  }
  store<i64>(total, allFirst);
  store<i64>(total, allSecond, 8);
}

/** The same for weights by class; sums of all classes, and rows, go to `total`. */
export function packClasses(rows: u32, order: usize, records: usize, stride: u32, weights: usize, classes: usize, counts: usize, scale: f64, size: u32, total: usize): void {
  memory.fill(total, 0, <usize>size << 3);
  for (let row: u32 = 0; row < rows; row++) {
    const often = <i64>load<u8>(counts + row);
    const weight = <i64>floor<f64>(load<f64>(weights + (<usize>row << 3)) * scale + 0.5) * often;
    const code = <usize>load<u16>(classes + (<usize>row << 1));
    store<u32>(order + (<usize>row << 2), row);
    store<i64>(records, weight);
    store<i64>(records, (<i64>code << 1) | <i64>(often > 0), 8);
    const own = total + (code << 3);
    store<i64>(own, load<i64>(own) + weight);
    const last = total + ((<usize>size - 1) << 3);
    store<i64>(last, load<i64>(last) + <i64>(often > 0));
    records += stride;
  }
}

/** Sums as doubles: gradient, curvature and rows of each place. */
export function unpack(places: u32, sums: usize, into: usize, perGradient: f64, perCurvature: f64, countBits: u32): void {
  const mask = (<i64>1 << countBits) - 1;
  for (let place: u32 = 0; place < places; place++) {
    const second = load<i64>(sums, 8);
    store<f64>(into, <f64>load<i64>(sums) * perGradient);
    store<f64>(into, <f64>(second >> countBits) * perCurvature, 8);
    store<f64>(into, <f64>(second & mask), 16);
    sums += 16;
    into += 24;
  }
}

/** The same for weights by class: `size` sums a place, the last of them rows. */
export function unpackClasses(places: u32, sums: usize, into: usize, size: u32, perWeight: f64): void {
  for (let place: u32 = 0; place < places; place++) {
    for (let index: u32 = 1; index < size; index++) {
      store<f64>(into, <f64>load<i64>(sums) * perWeight);
      sums += 8;
      into += 8;
    }
    store<f64>(into, <f64>load<i64>(sums));
    sums += 8;
    into += 8;
  }
}

/** Adds a value to the scores of a node's rows. */
export function addValue(order: usize, from: u32, to: u32, scores: usize, value: f64): void {
  for (let place = from; place < to; place++) {
    const at = scores + (<usize>load<u32>(order + (<usize>place << 2)) << 3);
    store<f64>(at, load<f64>(at) + value);
  }
}

/** Two exponentials of numbers from -708 to 0: 2^n e^r with |r| <= ln 2 / 2, and the Taylor series of e^r to r^13, whose remainder is below 5e-18. */
@inline
function exponential(x: v128): v128 {
  const n = f64x2.nearest(f64x2.mul(x, f64x2.splat(1.4426950408889634)));
  // ln 2 in two parts, so that n times the first is exact.
  const r = f64x2.sub(f64x2.sub(x, f64x2.mul(n, f64x2.splat(6.93147180369123816490e-1))), f64x2.mul(n, f64x2.splat(1.90821492927058770002e-10)));
  let sum = f64x2.splat(1.0 / 6227020800.0);
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 479001600.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 39916800.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 3628800.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 362880.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 40320.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 5040.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 720.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 120.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 24.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0 / 6.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(0.5));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0));
  sum = f64x2.add(f64x2.mul(sum, r), f64x2.splat(1.0));
  const power = i64x2.shl(i64x2.add(i64x2.extend_low_i32x4_s(i32x4.trunc_sat_f64x2_s_zero(n)), i64x2.splat(1023)), 52);
  return f64x2.mul(sum, power);
}

/**
 * Gradients and curvatures of the logistic loss at scores, two rows at a time; an odd last row takes the place behind it along.
 * The loss of a row is `linear` plus the logarithm of `factors`.
 * @param weights 0 when every row weighs 1
 */
export function logistic(rows: u32, scores: usize, target: usize, weights: usize, gradients: usize, curvatures: usize, linear: usize, factors: usize): void {
  const one = f64x2.splat(1);
  const zero = f64x2.splat(0);
  for (let at: usize = 0; at < <usize>rows << 3; at += 16) {
    const score = v128.load(scores + at);
    const y = v128.load(target + at);
    const e = exponential(f64x2.max(f64x2.neg(f64x2.abs(score)), f64x2.splat(-708)));
    const factor = f64x2.add(one, e);
    const small = f64x2.div(one, factor);
    const smaller = f64x2.mul(e, small);
    const share = v128.bitselect(small, smaller, f64x2.gt(score, zero));
    let gradient = f64x2.sub(share, y);
    let curvature = f64x2.mul(smaller, small);
    if (weights) {
      const weight = v128.load(weights + at);
      gradient = f64x2.mul(gradient, weight);
      curvature = f64x2.mul(curvature, weight);
    }
    v128.store(gradients + at, gradient);
    v128.store(curvatures + at, curvature);
    v128.store(linear + at, f64x2.sub(f64x2.max(score, zero), f64x2.mul(y, score)));
    v128.store(factors + at, factor);
  }
}
