import fc from "fast-check";
import { describeWait, type Wait } from "./describe-wait";
import { secondsLeft, secondsToStart, type Occupied, type Waiting } from "./forecast";

/** The same second by second: whoever is free takes the first run that it may take. */
function simulated(workers: readonly Occupied[], waiting: readonly Waiting[]): number | undefined {
  const left = workers.map((worker) => worker.busyFor!);
  const begun = waiting.map((): number | undefined => undefined);
  for (let second = 0; second < 2000; second += 1) {
    for (const [run, { small, takes }] of waiting.entries()) {
      if (begun[run] !== undefined) continue;
      const able = workers.flatMap(({ takesLarge }, index) =>
        (small || takesLarge) && left[index] === 0 ? [index] : [],
      );
      const taker = able.find((index) => !workers[index]!.takesLarge) ?? able[0];
      if (taker === undefined) continue;
      begun[run] = second;
      left[taker] = takes!;
    }
    for (const index of left.keys()) left[index] = Math.max(0, left[index]! - 1);
  }
  return begun.at(-1);
}

test("a run begins when a walk second by second says that it does", () => {
  const worker = fc.record({ takesLarge: fc.boolean(), busyFor: fc.integer({ min: 0, max: 60 }) });
  const run = fc.record({ small: fc.boolean(), takes: fc.integer({ min: 1, max: 60 }) });
  fc.assert(
    fc.property(
      fc.array(worker, { minLength: 1, maxLength: 3 }),
      fc.array(run, { minLength: 1, maxLength: 6 }),
      (workers, waiting) => {
        // In their order: a run that goes past another begins at another time than it would behind it.
        fc.pre(waiting.every((run) => run.small === waiting[0]!.small));
        expect(secondsToStart(workers, waiting)).toBe(simulated(workers, waiting));
      },
    ),
  );
});

test("a small run does not wait for the large ones before it", () => {
  const workers = [
    { takesLarge: true, busyFor: 480 },
    { takesLarge: false, busyFor: 3 },
  ];
  const large = { small: false, takes: 600 };
  expect(secondsToStart(workers, [large, large, { small: true, takes: 2 }])).toBe(3);
  expect(secondsToStart(workers, [large, large])).toBe(1080);
  expect(secondsToStart([{ takesLarge: true, busyFor: undefined }], [large])).toBeUndefined();
  expect(secondsToStart([{ takesLarge: false, busyFor: 0 }], [large])).toBeUndefined();
});

test("a person reads what is before the run and about how long", () => {
  const doing = { id: "1", kind: "train", pipeline: "long", secondsSoFar: 75, secondsLeft: 400 } as const;
  const wait: Wait = { small: false, doing: [doing], before: 2, startsIn: 1380, nobodyTakesIt: false };
  expect(describeWait(wait)).toBe(
    "The worker for large runs is busy with training long (1 min 15 s so far, about 7 minutes left). 2 runs are ahead of it. It starts in about 23 minutes.",
  );
  expect(describeWait({ ...wait, startsIn: undefined })).toContain("is unknown");
  expect(describeWait({ ...wait, doing: [], before: 0 })).toContain("within seconds");
  expect(describeWait({ ...wait, nobodyTakesIt: true })).toContain("take only small runs");
});

test("a run that takes longer than it was thought to has the longer left, the longer it takes", () => {
  expect([0, 30, 59, 100, 400].map((soFar) => secondsLeft(60, soFar))).toEqual([60, 30, 14.75, 25, 100]);
});
