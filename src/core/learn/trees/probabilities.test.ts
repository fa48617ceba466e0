import fc from "fast-check";
import { CATEGORIES, made, rowsAt } from "../../../../testing/tree-rows";
import { unwrap } from "../../problem";
import { MemoryFrame } from "../memory/memory-frame";
import { predict } from "../compiled";
import { boostSettings } from "../boosted-trees/facts";
import { forestSettings } from "../random-forest/facts";
import { treeSettings } from "../decision-tree/facts";
import type { Task } from "../task";
import { fitBoosted } from "../boosted-trees/boost";
import { fitForest, fitTree } from "./fit-trees";

test("probabilities of trees and forests are in [0, 1] and sum to 1, and a leaf of one answer says exactly that", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 1e6 }),
      fc.constantFrom<Task>({ kind: "binary" }, { kind: "classes", classes: ["a", "b", "c"] }),
      fc.constantFrom<"none" | "whole" | "fractions">("none", "whole", "fractions"),
      async (seed, task, weights) => {
        const { data, rows } = made(150, seed, task);
        const weight = { none: undefined, whole: 3, fractions: 0.7 }[weights];
        const frame = new MemoryFrame(task, {
          ...data,
          weight:
            weight === undefined
              ? undefined
              : data.draw.map((draw) => weight + (weight < 1 ? draw : Math.floor(3 * draw))),
        });
        const options = { categories: CATEGORIES };
        const models = [
          unwrap(await fitTree(frame, treeSettings.parse({ depth: 8, least_rows: 1 }), options)).model,
          unwrap(await fitForest(frame, forestSettings.parse({ trees: 7, depth: 6 }), options)).model,
          unwrap(
            await fitBoosted(
              frame,
              boostSettings.parse({ trees: 20, depth: 4, validation_share: 0 }),
              options,
            ),
          ).model,
        ];
        for (const model of models)
          for (const row of rows) {
            const found = [...predict(model, row)];
            found.forEach((value) => expect(value >= 0 && value <= 1).toBe(true));
            if (task.kind === "classes")
              expect(Math.abs(found.reduce((sum, part) => sum + part, 0) - 1)).toBeLessThan(1e-12);
          }
        const tree = models[0]!.algorithm === "decision_tree" ? models[0]!.tree : { nodes: [] };
        const places = rowsAt(tree, rows);
        tree.nodes.forEach((node, index) => {
          const answers = new Set(places[index]!.map((row) => data.target[row]!));
          if (answers.size !== 1 || weights === "fractions") return;
          const [only] = [...answers];
          expect(task.kind === "binary" ? node.value[0] : node.value[only!]).toBe(
            task.kind === "binary" ? only : 1,
          );
        });
      },
    ),
    { numRuns: 10 },
  );
});
