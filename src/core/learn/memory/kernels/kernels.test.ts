import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { binsInto, mergeSorted } from "../binning";
import { CHUNK, logisticSlopes } from "../losses";
import { openKernels, Stretches } from "./open-kernels";

test("the logistic kernel says what the definition says, from certain to certain, with and without weights and rows apart", () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          score: fc.oneof(
            fc.double({ min: -40, max: 40, noNaN: true }),
            fc.constantFrom(-1000, -708, 0, 708, 1000),
          ),
          y: fc.constantFrom(0, 1),
          weight: fc.double({ min: 0, max: 5, noNaN: true }),
          apart: fc.boolean(),
        }),
        { minLength: 1, maxLength: 301 },
      ),
      fc.boolean(),
      fc.boolean(),
      (rows, weighted, split) => {
        const kernels = openKernels();
        const stretches = new Stretches(kernels.memory);
        const addresses = Array.from({ length: 5 }, () => stretches.take(8 * rows.length));
        const scratch = stretches.take(16 * CHUNK);
        const [target, weight, scores, gradients, curvatures] = addresses.map(
          (address) => new Float64Array(kernels.memory.buffer, address, rows.length),
        ) as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
        target.set(rows.map((row) => row.y));
        weight.set(rows.map((row) => row.weight));
        scores.set(rows.map((row) => row.score));
        const apart = split ? Uint8Array.from(rows, (row) => (row.apart ? 1 : 0)) : undefined;
        const sums = logisticSlopes(
          kernels,
          { target, weight: weighted ? weight : undefined, scores: [scores], apart },
          { gradients: [gradients], curvatures: [curvatures] },
          scratch,
        );
        const expected = [0, 0];
        rows.forEach(({ score, y, weight: own, apart: aside }, index) => {
          const times = weighted ? own : 1;
          // Written so that nothing is lost at either end.
          const e = Math.exp(-Math.abs(score));
          const share = score > 0 ? 1 / (1 + e) : e / (1 + e);
          expect(Math.abs(gradients[index]! - (share - y) * times)).toBeLessThanOrEqual(
            1e-15 * Math.max(1, times),
          );
          expect(Math.abs(curvatures[index]! - (e / (1 + e) ** 2) * times)).toBeLessThanOrEqual(
            1e-15 * Math.max(1, times),
          );
          expected[split && aside ? 1 : 0]! += times * (Math.max(score, 0) - y * score + Math.log1p(e));
        });
        for (const side of [0, 1] as const)
          expect(Math.abs(sums.losses[side][0]! - expected[side]!)).toBeLessThanOrEqual(
            1e-12 * (1 + expected[side]!),
          );
      },
    ),
    { numRuns: 60 },
  );
});

test("a value falls into the bin that counting cuts gives, whatever the cuts", () => {
  const value = fc.oneof(
    fc.double(),
    fc.constantFrom(Number.NaN, Infinity, -Infinity, 0, -0, 1e308, -1e308, 5e-324),
  );
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.oneof(fc.double({ noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })), {
        maxLength: 254,
        comparator: (left, right) => left === right,
      }),
      fc.array(value, { maxLength: 200 }),
      (unsorted, others) => {
        const cuts = Float64Array.from(unsorted).sort();
        const values = Float64Array.from([...others, ...cuts]);
        const bins = new Uint8Array(values.length);
        binsInto(values, cuts, bins);
        expect([...bins]).toEqual(
          [...values].map((value) =>
            Number.isNaN(value) ? 0 : 1 + cuts.filter((cut) => cut <= value).length,
          ),
        );
      },
    ),
  );
});

test("merged lists are what sorting everything gives", () => {
  fc.assert(
    fc.property(fc.array(fc.array(fc.double({ noNaN: true })), { maxLength: 4 }), (lists) => {
      expect([...mergeSorted(lists.map((list) => Float64Array.from(list).sort()))]).toEqual([
        ...Float64Array.from(lists.flat()).sort(),
      ]);
    }),
  );
});

test("the compiled kernels are those of kernels/tree-kernels.ts", () => {
  const root = path.join(__dirname, "../../../../..");
  expect(
    execFileSync(process.execPath, [path.join(root, "kernels/build.mjs")], { encoding: "utf8" }) ===
      readFileSync(path.join(__dirname, "tree-kernels.ts"), "utf8"),
  ).toBe(true);
});
