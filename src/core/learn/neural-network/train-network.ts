import { shuffled, uniform } from "../../numeric/random";
import { failure, problem, success, type Result } from "../../problem";
import { checkSummary } from "../linear/diagnose";
import { isConstant } from "../left-out";
import { targetScale } from "../linear-regression/regression";
import type { Fitted, FitOptions } from "../fitting";
import type { ColumnData } from "../memory/column-data";
import { softmaxInto } from "../memory/losses";
import type { FrameQuestions } from "../questions";
import type { NetworkSettings } from "./facts";
import { outputsOf, type Task } from "../task";
import type { Pass } from "../watch";
import { Layers } from "./layers";
import type { NetworkModel } from "./network";

type Link = NetworkModel["link"];

/** Rows as inputs: dense scaled numbers, and for each category the position of its level among the inputs (-1: none). */
interface Inputs {
  readonly width: number;
  readonly numbers: readonly {
    readonly values: Float64Array;
    readonly centre: number;
    readonly spread: number;
  }[];
  readonly categories: readonly { readonly codes: Int32Array; readonly from: number }[];
}

/**
 * Trains a network of one to three hidden layers by Adam on small batches, until the loss on rows kept apart stops falling.
 * Rows are taken in an order that their own random numbers and the seed decide, so the result does not depend on how they lie.
 * Sources: Kingma and Ba, "Adam: a method for stochastic optimization", 2015; He et al., "Delving deep into rectifiers", 2015 (start).
 */
export async function fitNetwork(
  ask: FrameQuestions,
  settings: NetworkSettings,
  options: FitOptions,
): Promise<Result<Fitted<NetworkModel>>> {
  const summary = await ask.summary();
  const found = checkSummary(summary, "mean");
  if (found.length > 0) return failure(...found);
  const data = ask.columns;
  if (!data)
    return failure(
      problem(
        "needs_streaming",
        "A neural network makes many passes over the rows, so rows must stream to the worker.",
        "Set engine: streaming.",
      ),
    );
  const numbers = summary.numbers
    .filter((number) => number.missing < summary.rows && !isConstant(number))
    .map((number) => ({ column: number.column, centre: number.mean, spread: number.deviation }));
  const categories = options.categories.map(({ column, levels }) => ({ column, levels: [...levels] }));
  let width = numbers.length;
  const inputs: Inputs = {
    numbers: numbers.map((number) => ({
      ...number,
      values: data.numbers.find(({ column }) => column === number.column)!.values,
    })),
    categories: categories.map((category) => {
      const from = width;
      width += category.levels.length;
      return { from, codes: data.categories.find(({ column }) => column === category.column)!.codes };
    }),
    get width() {
      return width;
    },
  };
  const links = { number: "identity", binary: "logistic", classes: "softmax" } as const;
  const link: Link = links[ask.task.kind];
  const target = link === "identity" ? targetScale(summary) : { centre: 0, spread: 1 };
  const byDraw = Array.from({ length: data.rows }, (_, row) => row).sort(
    (left, right) => data.draw[left]! - data.draw[right]! || data.target[left]! - data.target[right]!,
  );
  const order = shuffled(data.rows, settings.seed).map((place) => byDraw[place]!);
  const isHeld = heldApart(order, data.target, ask.task, settings.validation_share);
  const held = order.filter((row) => isHeld[row] === 1);
  const training = order.filter((row) => isHeld[row] === 0);
  if (training.length === 0)
    return failure(
      problem(
        "no_rows",
        "No rows remain for training after the validation share.",
        "Lower validation_share.",
      ),
    );
  const network = new Layers([width, ...settings.hidden, outputsOf(ask.task)], (index) =>
    uniform(index, settings.seed),
  );
  const step = stepper(network, data, inputs, link, target, settings);
  const passes: Pass[] = [];
  let best = { epoch: 0, loss: Infinity, layers: network.copy() };
  let epoch = 0;
  while (epoch < settings.epochs) {
    epoch += 1;
    const loss = await step.epoch(
      shuffled(training.length, settings.seed + epoch).map((place) => training[place]!),
      options.breathe,
    );
    const validation = held.length > 0 ? step.loss(held) : undefined;
    const pass: Pass = {
      pass: epoch,
      scope: "epoch",
      loss,
      ...(validation === undefined ? {} : { validation }),
    };
    passes.push(pass);
    await options.onPass?.(pass);
    if (!Number.isFinite(loss))
      return failure(problem("not_converged", "The loss grew without bound.", "Lower learning_rate."));
    if ((validation ?? loss) < best.loss) best = { epoch, loss: validation ?? loss, layers: network.copy() };
    else if (held.length > 0 && epoch - best.epoch >= settings.stop_after) break;
  }
  return success({
    warnings: [],
    model: {
      algorithm: "neural_network",
      numbers,
      categories,
      link,
      target,
      layers: best.layers,
      fit: {
        rows: summary.rows,
        engine: ask.engine,
        numbersOut: ask.numbersOut(),
        passes,
        epochs: epoch,
        chosen: best.epoch,
        meanLoss: passes[best.epoch - 1]?.loss,
      },
    },
  });
}

/** Held rows that are enough to tell one epoch from the next, and the share beyond which too few are left to learn from. */
const [ENOUGH_HELD, MOST_HELD] = [300, 0.25];
/** Parts of about the same size by the target that a number's rows are held apart from. */
const NUMBER_STRATA = 10;

/** 1 for rows that are held apart: the same share of every class, or of numbers of every size, and of few rows a larger one. */
function heldApart(order: readonly number[], target: Float64Array, task: Task, wanted: number): Uint8Array {
  const found = new Uint8Array(target.length);
  if (wanted === 0) return found;
  const share = Math.max(wanted, Math.min(MOST_HELD, ENOUGH_HELD / Math.max(1, order.length)));
  // Of numbers, neighbours in size: within each run of such rows the first in the drawn order are held.
  const bySize =
    task.kind === "number" ? [...order].sort((left, right) => target[left]! - target[right]!) : order;
  const run = Math.max(1, Math.ceil(order.length / NUMBER_STRATA));
  const strata = new Map<number, number[]>();
  const stratumOf = new Map(
    bySize.map((row, place) => [row, task.kind === "number" ? Math.floor(place / run) : target[row]!]),
  );
  for (const row of order) {
    const stratum = stratumOf.get(row)!;
    const known = strata.get(stratum);
    if (known) known.push(row);
    else strata.set(stratum, [row]);
  }
  for (const rows of strata.values())
    for (const row of rows.slice(0, Math.floor(share * rows.length + 0.5))) found[row] = 1;
  return found;
}

/** One pass of Adam over rows in batches, and the loss without learning. */
function stepper(
  network: Layers,
  data: ColumnData,
  inputs: Inputs,
  link: Link,
  target: { readonly centre: number; readonly spread: number },
  settings: NetworkSettings,
): {
  epoch: (rows: readonly number[], breathe: FitOptions["breathe"]) => Promise<number>;
  loss: (rows: readonly number[]) => number;
} {
  const outputs = network.outputs;
  const shares = new Float64Array(outputs);
  const input = new Float64Array(inputs.width);
  const fill = (row: number): void => {
    input.fill(0);
    inputs.numbers.forEach(({ values, centre, spread }, index) => {
      const value = values[row]!;
      input[index] = Number.isNaN(value) ? 0 : (value - centre) / spread;
    });
    for (const { codes, from } of inputs.categories) if (codes[row]! > 0) input[from + codes[row]! - 1] = 1;
  };
  /** Loss of a row, and the slope of the loss in each output's sum. */
  const judge = (row: number, sums: Float64Array, slopes: Float64Array): number => {
    const y = data.target[row]!;
    const times = data.weight === undefined ? 1 : data.weight[row]!;
    if (link === "identity") {
      const off = sums[0]! - (y - target.centre) / target.spread;
      slopes[0] = off * times;
      return 0.5 * off * off * times;
    }
    if (link === "logistic") {
      const eta = sums[0]!;
      slopes[0] = (1 / (1 + Math.exp(-eta)) - y) * times;
      return (Math.max(eta, 0) + Math.log1p(Math.exp(-Math.abs(eta))) - y * eta) * times;
    }
    softmaxInto(sums, outputs, shares);
    for (let output = 0; output < outputs; output += 1)
      slopes[output] = (shares[output]! - (y === output ? 1 : 0)) * times;
    return -Math.log(Math.max(shares[y]!, 1e-300)) * times;
  };
  const slopes = new Float64Array(outputs);
  return {
    loss: (rows) => {
      let total = 0;
      for (const row of rows) {
        fill(row);
        total += judge(row, network.forward(input), slopes);
      }
      return total / rows.length;
    },
    epoch: async (rows, breathe) => {
      let total = 0;
      for (let from = 0; from < rows.length; from += settings.batch) {
        const batch = rows.slice(from, from + settings.batch);
        network.clear();
        for (const row of batch) {
          fill(row);
          total += judge(row, network.forward(input), slopes);
          network.backward(input, slopes);
        }
        network.step(batch.length, settings.learning_rate, settings.ridge);
        if ((from / settings.batch) % BREATHE_EVERY === 0) await breathe?.();
      }
      return total / rows.length;
    },
  };
}

/** Batches between two moments in which other work may go on. */
const BREATHE_EVERY = 20;
