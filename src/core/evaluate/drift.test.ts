import fc from "fast-check";
import { driftOf, MUCH_DRIFT, SOME_DRIFT } from "./drift";
import { FEW_VALUES, GRID_SHARES, numberParts, numberShape, type ColumnSpread } from "./spread";

const spread = (counts: readonly number[], missing = 0): ColumnSpread => ({
  column: "x",
  kind: "number",
  edges: counts.slice(1).map((_, index) => index),
  levels: [],
  counts: [...counts],
  missing,
});
const count = fc.integer({ min: 1, max: 500 });

test("the same shares do not drift, however many rows; and drift is the same in both directions", () => {
  fc.assert(
    fc.property(
      fc.array(count, { minLength: 2, maxLength: 10 }),
      fc.array(count, { minLength: 10, maxLength: 10 }),
      fc.integer({ min: 2, max: 9 }),
      (counts, others, times) => {
        const same = driftOf(
          spread(counts, 3),
          spread(
            counts.map((count) => count * times),
            3 * times,
          ),
        )!;
        expect(same.psi).toBeCloseTo(0, 12);
        expect(same.ks).toBeCloseTo(0, 12);
        const other = spread(others.slice(0, counts.length), 1);
        const [there, back] = [driftOf(spread(counts, 3), other)!, driftOf(other, spread(counts, 3))!];
        expect(there.psi).toBeGreaterThanOrEqual(0);
        expect(there.psi).toBeCloseTo(back.psi, 12);
        expect(there.ks).toBeCloseTo(back.ks!, 12);
      },
    ),
  );
});

test("index and distance are those of their definitions; an empty part is finitely far; gaps count as a part", () => {
  const found = driftOf(spread([50, 50]), spread([25, 75]))!;
  expect(found.psi).toBeCloseTo(-0.25 * Math.log(0.5) + 0.25 * Math.log(1.5), 12);
  expect(found.ks).toBeCloseTo(0.25, 12);
  expect(found.psi).toBeGreaterThan(SOME_DRIFT);
  expect(driftOf(spread([50, 50]), spread([0, 100]))!.psi).toBeLessThan(10);
  expect(driftOf(spread([50, 50]), spread([0, 100]))!.psi).toBeGreaterThan(MUCH_DRIFT);
  expect(driftOf(spread([50, 50]), spread([25, 25], 50))).toMatchObject({
    ks: 0,
    missing: [0, 0.5],
    parts: [
      { name: "below 0", before: 0.5, now: 0.25 },
      { name: "from 0", before: 0.5, now: 0.25 },
    ],
  });
  expect(driftOf(spread([50, 50]), spread([0, 0]))).toBeUndefined();
});

type Values = readonly (number | null)[];

/** percentile_disc of PostgreSQL: the first value whose share of values up to it reaches the wanted one. */
function gridOf(values: Values): number[] {
  const order = values.filter((value) => value !== null).sort((left, right) => left - right);
  return order.length === 0
    ? []
    : GRID_SHARES.map((share) => order[Math.max(0, Math.ceil(share * order.length - 1e-9) - 1)]!);
}

function shapeOf(values: Values) {
  const distinct = [...new Set(values.filter((value) => value !== null))];
  return numberShape("x", gridOf(values), distinct.length <= FEW_VALUES ? distinct : undefined);
}

/** Counts one value after the other: the slow way. */
function counted(shape: ReturnType<typeof shapeOf>, values: Values): ColumnSpread {
  const parts = numberParts(shape);
  const counts = parts.map(
    ({ from, to }) =>
      values.filter(
        (value) =>
          value !== null &&
          (!from || (from.above ? value > from.at : value >= from.at)) &&
          (!to || (to.above ? value <= to.at : value < to.at)),
      ).length,
  );
  return { ...shape, counts, missing: values.filter((value) => value === null).length };
}

const drifted = (before: Values, now: Values) => {
  const shape = shapeOf(before);
  return driftOf(counted(shape, before), counted(shape, now))!;
};

/** The index from its definition, every value that training saw a part of its own. */
function indexByValue(before: Values, now: Values): number {
  const share = (values: Values, test: (value: number | null) => boolean): number =>
    Math.max(0.0005, values.filter(test).length / values.length);
  const seen = [...new Set<number | null>([...before, null])];
  const tests = [...seen.map((known) => (value: number | null) => value === known)];
  const others = (value: number | null): boolean => !seen.includes(value);
  const parts = now.some(others) ? [...tests, others] : tests;
  return parts.reduce((sum, test) => {
    const [p, q] = [share(before, test), share(now, test)];
    return sum + (q - p) * Math.log(q / p);
  }, 0);
}

test("of columns with few values, the index is that over the values themselves, what training never saw one more", () => {
  const value = fc.option(fc.integer({ min: 0, max: 12 }), { nil: null });
  const column = fc.array(value, { minLength: 5, maxLength: 80 });
  fc.assert(
    fc.property(column, column, (before, now) => {
      fc.pre(before.some((value) => value !== null));
      expect(drifted(before, now).psi).toBeCloseTo(indexByValue(before, now), 9);
    }),
  );
});

test("every value of training is in one part, and what fills a twentieth of it is a part of its own", () => {
  const value = fc.oneof(fc.double({ min: -50, max: 50, noNaN: true }), fc.constantFrom(0, 1, 7));
  fc.assert(
    fc.property(fc.array(value, { minLength: 30, maxLength: 300 }), (values) => {
      const plain = values.map((value) => value + 0);
      const shape = shapeOf(plain);
      expect(counted(shape, plain).counts.reduce((sum, count) => sum + count, 0)).toBe(plain.length);
      const same = drifted(plain, plain);
      expect([same.psi, same.ks]).toEqual([0, 0]);
      for (const frequent of new Set(plain))
        if (plain.filter((value) => value === frequent).length >= plain.length / 20 + 1)
          expect(shape.values).toContain(frequent);
      const beyond = plain.map(() => Math.max(...plain) + 1);
      expect(drifted(plain, beyond).parts.at(-1)).toEqual({ name: "unseen", before: 0, now: 1 });
    }),
  );
});

const times = (count: number, value: (index: number) => number): number[] =>
  Array.from({ length: count }, (_, index) => value(index));
test.each([
  [
    "a flag that goes from 5 % to 60 %",
    times(1000, (i) => Number(i < 50)),
    times(1000, (i) => Number(i < 600)),
    1.8,
  ],
  ["a constant that becomes another", times(500, () => 1), times(500, () => 7), 15],
  [
    "zeros that go from 94 % to 20 %, among many values",
    times(1000, (i) => (i < 940 ? 0 : i / 7)),
    times(1000, (i) => (i < 200 ? 0 : (940 + (i % 60)) / 7)),
    2.5,
  ],
])("%s is seen", (_what, before, now, least) => {
  expect(drifted(before, now).psi).toBeGreaterThan(least);
  expect(drifted(before, now).ks).toBeGreaterThan(0.5);
});
