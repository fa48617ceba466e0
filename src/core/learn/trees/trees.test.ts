import fc from "fast-check";
import { programPrediction } from "../../../../testing/interpreter/model-program";
import { CATEGORIES, made, rowsAt } from "../../../../testing/tree-rows";
import { unwrap } from "../../problem";
import { meanOf, treeReasons } from "../../explain/shapley";
import { reasonsFor, predictorOf } from "../../explain/reasons";
import { predict } from "../compiled";
import { MemoryFrame } from "../memory/memory-frame";
import type { ColumnData } from "../memory/column-data";
import { LocalBlocks } from "../memory/blocks";
import { boostSettings } from "../boosted-trees/facts";
import { forestSettings } from "../random-forest/facts";
import { treeSettings } from "../decision-tree/facts";
import type { FeatureRow, Task } from "../task";
import { fitBoosted } from "../boosted-trees/boost";
import { fitForest, fitTree } from "./fit-trees";
import { goesLeft, type Tree } from "./tree";

/** Sum of squared errors that the best split of some rows leaves, found by trying every one: each threshold with gaps on either side, each set of levels. */
function exhaustive(rows: readonly FeatureRow[], answers: readonly number[], least: number): number {
  const left = (values: readonly number[]): number => {
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
    return values.reduce((sum, value) => sum + (value - mean) ** 2, 0);
  };
  let best = left(answers);
  const consider = (goes: (row: FeatureRow) => boolean): void => {
    const on = answers.filter((_, index) => goes(rows[index]!));
    const off = answers.filter((_, index) => !goes(rows[index]!));
    if (on.length >= least && off.length >= least) best = Math.min(best, left(on) + left(off));
  };
  for (const name of ["x0", "x1"])
    for (const cut of [...new Set(rows.map((row) => row[name]))])
      for (const gaps of [true, false])
        if (cut !== null) consider((row) => (row[name] === null ? gaps : Number(row[name]) <= Number(cut)));
  for (let set = 1; set < 31; set += 1)
    consider((row) => ((set >> CATEGORIES[0]!.levels.indexOf(row["k"] as string | null)) & 1) === 1);
  return best;
}

test("every split of a regression tree of depth 3 is the best that trying all of them finds", async () => {
  for (const seed of [1, 2, 3]) {
    const { data, rows } = made(90, seed, { kind: "number" });
    const { tree } = unwrap(
      await fitTree(
        new MemoryFrame({ kind: "number" }, data),
        treeSettings.parse({ depth: 3, least_rows: 4 }),
        { categories: CATEGORIES },
      ),
    ).model;
    const places = rowsAt(tree, rows);
    expect(tree.nodes.length).toBeGreaterThan(7);
    tree.nodes.forEach((node, index) => {
      const answers = places[index]!.map((row) => data.target[row]!);
      expect(node.rows).toBe(answers.length);
      expect(node.value[0]).toBeCloseTo(answers.reduce((sum, answer) => sum + answer, 0) / answers.length, 6);
      if (node.kind === "leaf") return;
      const after = [node.left, node.right].reduce((sum, child) => {
        const values = places[child]!.map((row) => data.target[row]!);
        const mean = values.reduce((total, value) => total + value, 0) / values.length;
        return sum + values.reduce((total, value) => total + (value - mean) ** 2, 0);
      }, 0);
      expect(after).toBeCloseTo(
        exhaustive(
          places[index]!.map((row) => rows[row]!),
          answers,
          4,
        ),
        5,
      );
    });
  }
});

test.each([
  ["squared", { kind: "number" }],
  ["absolute", { kind: "number" }],
  ["logistic", { kind: "binary" }],
  ["softmax", { kind: "classes", classes: ["a", "b", "c"] }],
] as const)("boosting with %s loss lowers the training loss with every tree", async (loss, task) => {
  const { data } = made(400, 4, task as Task);
  const settings = boostSettings.parse({
    trees: 30,
    depth: 3,
    validation_share: 0,
    least_rows: 5,
    ...(task.kind === "number" ? { loss } : {}),
  });
  const { model } = unwrap(
    await fitBoosted(new MemoryFrame(task as Task, data), settings, { categories: CATEGORIES }),
  );
  const losses = model.fit.passes.map((pass) => pass.loss);
  expect(losses.length).toBe(30);
  losses.slice(1).forEach((loss, index) => expect(loss).toBeLessThan(losses[index]! + 1e-12));
});

test("the same seed gives the same model, bit for bit, whatever the number of threads and the order of the rows", async () => {
  const task: Task = { kind: "binary" };
  const { data } = made(9000, 5, task);
  const turned: ColumnData = {
    ...data,
    numbers: data.numbers.map((number) => ({ ...number, values: number.values.slice().reverse() })),
    categories: data.categories.map((category) => ({ ...category, codes: category.codes.slice().reverse() })),
    target: data.target.slice().reverse(),
    draw: data.draw.slice().reverse(),
  };
  const treesOf = async (frame: MemoryFrame): Promise<string> => {
    const boosted = unwrap(
      await fitBoosted(
        frame,
        boostSettings.parse({ trees: 8, depth: 4, rows_share: 0.7, columns_share: 0.7 }),
        { categories: CATEGORIES },
      ),
    ).model;
    const forest = unwrap(
      await fitForest(frame, forestSettings.parse({ trees: 5, depth: 4 }), { categories: CATEGORIES }),
    ).model;
    return JSON.stringify([boosted.start, boosted.rounds, forest.trees]);
  };
  const expected = await treesOf(new MemoryFrame(task, data));
  for (const other of [
    new MemoryFrame(task, data, { team: new LocalBlocks(3) }),
    new MemoryFrame(task, turned),
  ])
    expect((await treesOf(other)) === expected).toBe(true);
});

test("rows that no tree saw judge a forest about as well as fresh rows do", async () => {
  const task: Task = { kind: "binary" };
  const { data, rows } = made(1200, 6, task);
  const fresh = made(1200, 7, task);
  const { model } = unwrap(
    await fitForest(new MemoryFrame(task, data), forestSettings.parse({ trees: 60, depth: 8 }), {
      categories: CATEGORIES,
    }),
  );
  const loss = (sample: typeof fresh): number =>
    sample.rows.reduce((sum, row, index) => {
      const p = Math.min(1 - 1e-15, Math.max(1e-15, predict(model, row)[0]!));
      return sum - Math.log(sample.data.target[index] === 1 ? p : 1 - p);
    }, 0) / sample.rows.length;
  expect(model.fit.outOfBag.rows).toBe(1200);
  expect(Math.abs(model.fit.outOfBag.loss - loss(fresh))).toBeLessThan(0.08);
  expect(loss({ data, rows })).toBeLessThan(model.fit.outOfBag.loss);
});

/** Shapley values of a tree by the definition: all orders of all columns, an unknown column splitting a row in proportion to the weights. */
function byDefinition(tree: Tree, row: FeatureRow, columns: readonly string[]): ReadonlyMap<string, number> {
  const value = (known: ReadonlySet<string>): number => {
    const visit = (at: number): number => {
      const node = tree.nodes[at]!;
      if (node.kind === "leaf") return node.value[0]!;
      if (known.has(node.column)) return visit(goesLeft(node, row) ? node.left : node.right);
      const [left, right] = [tree.nodes[node.left]!.weight, tree.nodes[node.right]!.weight];
      return (left * visit(node.left) + right * visit(node.right)) / (left + right);
    };
    return visit(0);
  };
  const sums = new Map(columns.map((name) => [name, 0]));
  const orders = (rest: readonly string[]): string[][] =>
    rest.length === 0
      ? [[]]
      : rest.flatMap((name) => orders(rest.filter((text) => text !== name)).map((tail) => [name, ...tail]));
  const all = orders(columns);
  for (const order of all) {
    const known = new Set<string>();
    for (const name of order) {
      const before = value(known);
      known.add(name);
      sums.set(name, sums.get(name)! + (value(known) - before) / all.length);
    }
  }
  return sums;
}

test("reasons of a tree are the Shapley values of the definition; those of ensembles add up to the predictor", async () => {
  const { data, rows } = made(300, 8, { kind: "number" });
  const { tree } = unwrap(
    await fitTree(
      new MemoryFrame({ kind: "number" }, data),
      treeSettings.parse({ depth: 5, least_rows: 3 }),
      { categories: CATEGORIES },
    ),
  ).model;
  for (const row of [...rows.slice(0, 25), { x0: null, x1: null, k: "unseen" }]) {
    const found = new Map<string, number>();
    const base = treeReasons(tree, 0, row, (column, value) =>
      found.set(column, (found.get(column) ?? 0) + value),
    );
    expect(base).toBeCloseTo(meanOf(tree, 0), 10);
    byDefinition(tree, row, ["x0", "x1", "k"]).forEach((value, column) =>
      expect(found.get(column) ?? 0).toBeCloseTo(value, 8),
    );
  }
  const binary = made(300, 9, { kind: "binary" });
  const boosted = unwrap(
    await fitBoosted(
      new MemoryFrame({ kind: "binary" }, binary.data),
      boostSettings.parse({ trees: 12, depth: 4 }),
      { categories: CATEGORIES },
    ),
  ).model;
  const forest = unwrap(
    await fitForest(new MemoryFrame({ kind: "binary" }, binary.data), forestSettings.parse({ trees: 8 }), {
      categories: CATEGORIES,
    }),
  ).model;
  for (const model of [boosted, forest])
    for (const row of binary.rows.slice(0, 25)) {
      const { base, parts } = reasonsFor(model, row, 0, { means: {}, usual: {} });
      expect(parts.reduce((sum, part) => sum + part.value, base)).toBeCloseTo(predictorOf(model, row, 0), 8);
    }
});

test("a compiled model predicts what its program does, with gaps and categories never seen", async () => {
  const task: Task = { kind: "classes", classes: ["a", "b", "c"] };
  const { data } = made(300, 10, task);
  const boosted = unwrap(
    await fitBoosted(new MemoryFrame(task, data), boostSettings.parse({ trees: 6, depth: 4 }), {
      categories: CATEGORIES,
    }),
  ).model;
  const forest = unwrap(
    await fitForest(new MemoryFrame(task, data), forestSettings.parse({ trees: 6 }), {
      categories: CATEGORIES,
    }),
  ).model;
  const value = fc.option(fc.oneof(fc.integer({ min: -5, max: 20 }), fc.constantFrom(Infinity, -Infinity)), {
    nil: null,
  });
  fc.assert(
    fc.property(value, value, fc.constantFrom("a", "b", "c", "d", null, "zebra"), (x0, x1, k) => {
      for (const model of [boosted, forest]) {
        const found = predict(model, { x0, x1, k });
        const expected = programPrediction(model, { x0, x1, k });
        found.forEach((value, index) => expect(value).toBeCloseTo(expected[index]!, 12));
        expect(found.reduce((sum, value) => sum + value, 0)).toBeCloseTo(1, 9);
      }
    }),
  );
});
