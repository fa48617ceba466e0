/** The rates of Adam: how slowly its means of slopes and of their squares move. */
const [FIRST, SECOND, TINY] = [0.9, 0.999, 1e-8];

interface Layer {
  readonly inputs: number;
  readonly units: number;
  /** Weights of unit u from place u * (inputs + 1); the last one is the offset. */
  readonly weights: Float64Array;
  readonly slopes: Float64Array;
  readonly mean: Float64Array;
  readonly square: Float64Array;
  readonly values: Float64Array;
  readonly errors: Float64Array;
}

/** Layers of rectified units with a layer of plain sums on top, their slopes, and the state of Adam. */
export class Layers {
  private readonly layers: readonly Layer[];
  private steps = 0;

  /**
   * @param sizes inputs, units of each hidden layer, outputs
   * @param random a number in [0, 1) for each counter
   */
  constructor(sizes: readonly number[], random: (counter: number) => number) {
    let counter = 0;
    this.layers = sizes.slice(1).map((units, depth) => {
      const inputs = sizes[depth]!;
      const size = units * (inputs + 1);
      const weights = new Float64Array(size);
      // Uniform with the variance that keeps the size of signals through rectified layers.
      const bound = Math.sqrt(6 / Math.max(1, inputs));
      for (let index = 0; index < size; index += 1)
        weights[index] = (index + 1) % (inputs + 1) === 0 ? 0 : (2 * random((counter += 1)) - 1) * bound;
      const zeros = (): Float64Array => new Float64Array(size);
      return {
        inputs,
        units,
        weights,
        slopes: zeros(),
        mean: zeros(),
        square: zeros(),
        values: new Float64Array(units),
        errors: new Float64Array(units),
      };
    });
  }

  get outputs(): number {
    return this.layers.at(-1)!.units;
  }

  /** Sums of the last layer for one row's inputs. The result is overwritten by the next call. */
  forward(input: Float64Array): Float64Array {
    let values = input;
    this.layers.forEach((layer, depth) => {
      const hidden = depth < this.layers.length - 1;
      const { inputs, units, weights } = layer;
      for (let unit = 0; unit < units; unit += 1) {
        const from = unit * (inputs + 1);
        let sum = weights[from + inputs]!;
        for (let index = 0; index < inputs; index += 1) sum += weights[from + index]! * values[index]!;
        layer.values[unit] = hidden && sum < 0 ? 0 : sum;
      }
      values = layer.values;
    });
    return values;
  }

  /** Adds one row's slopes, given those of its outputs; comes after {@link forward} for the same row. */
  backward(input: Float64Array, outputSlopes: Float64Array): void {
    this.layers.at(-1)!.errors.set(outputSlopes);
    for (let depth = this.layers.length - 1; depth >= 0; depth -= 1) {
      const { inputs, units, weights, slopes, errors } = this.layers[depth]!;
      const below = depth > 0 ? this.layers[depth - 1]! : undefined;
      const values = below?.values ?? input;
      below?.errors.fill(0);
      for (let unit = 0; unit < units; unit += 1) {
        const error = errors[unit]!;
        if (error === 0) continue;
        const from = unit * (inputs + 1);
        slopes[from + inputs]! += error;
        for (let index = 0; index < inputs; index += 1) slopes[from + index]! += error * values[index]!;
        if (below)
          for (let index = 0; index < inputs; index += 1)
            if (below.values[index]! > 0) below.errors[index]! += error * weights[from + index]!;
      }
    }
  }

  clear(): void {
    for (const { slopes } of this.layers) slopes.fill(0);
  }

  /** One step of Adam from the slopes added up over `rows` rows, with a penalty on squared weights. */
  step(rows: number, rate: number, ridge: number): void {
    this.steps += 1;
    const first = 1 - FIRST ** this.steps;
    const second = 1 - SECOND ** this.steps;
    for (const { weights, slopes, mean, square, inputs } of this.layers) {
      for (let index = 0; index < weights.length; index += 1) {
        const offset = (index + 1) % (inputs + 1) === 0;
        const slope = slopes[index]! / rows + (offset ? 0 : ridge * weights[index]!);
        mean[index] = FIRST * mean[index]! + (1 - FIRST) * slope;
        square[index] = SECOND * square[index]! + (1 - SECOND) * slope * slope;
        weights[index]! -= (rate * (mean[index]! / first)) / (Math.sqrt(square[index]! / second) + TINY);
      }
    }
  }

  /** Weights and offsets as they are now. */
  copy(): { weights: number[][]; offsets: number[] }[] {
    return this.layers.map(({ inputs, units, weights }) => ({
      weights: Array.from({ length: units }, (_, unit) => [
        ...weights.subarray(unit * (inputs + 1), unit * (inputs + 1) + inputs),
      ]),
      offsets: Array.from({ length: units }, (_, unit) => weights[unit * (inputs + 1) + inputs]!),
    }));
  }
}
