import fc from "fast-check";
import { countKinds, threadOf, type ScheduledRun } from "./thread";

const OPTIONS = { from: 0, until: 1000, lateAfter: 30, most: 50 };
const run = (at: number, more: Partial<ScheduledRun> = {}): ScheduledRun => ({
  id: `run ${at}`,
  at,
  state: "done",
  rows: 10,
  minutes: 2,
  ...more,
});

describe("the thread of a schedule", () => {
  test("tells what landed, came late, failed, was cancelled or is running, and what was skipped since the first run", () => {
    const marks = threadOf(
      [
        run(300, { state: "failed", rows: null, minutes: 1 }),
        run(200, { minutes: 31 }),
        run(100),
        run(500, { state: "cancelled", rows: null, minutes: null }),
        run(600, { state: "queued", rows: null, minutes: null }),
        run(2000),
      ],
      [50, 100, 200, 300, 400, 500, 600],
      OPTIONS,
    );
    expect(marks.map(({ at, kind, run: id }) => [at, kind, id])).toEqual([
      [100, "landed", "run 100"],
      [200, "late", "run 200"],
      [300, "failed", "run 300"],
      [400, "skipped", undefined],
      [500, "skipped", "run 500"],
      [600, "running", "run 600"],
    ]);
  });

  test("goes by the last run of a time", () => {
    const runs = [run(100, { state: "failed" }), run(100, { id: "again" })];
    expect(threadOf(runs, [], OPTIONS).map(({ kind, run: id }) => [kind, id])).toEqual([["landed", "again"]]);
  });

  test("takes many times together without losing a row, a time or a failure", () => {
    const states = fc.constantFrom<ScheduledRun["state"]>("done", "failed", "running", "cancelled");
    const many = fc.uniqueArray(
      fc.record({ at: fc.integer({ min: 0, max: 1000 }), state: states, rows: fc.nat(1000) }),
      { selector: ({ at }) => at, maxLength: 200 },
    );
    fc.assert(
      fc.property(many, fc.integer({ min: 1, max: 60 }), (told, most) => {
        const runs = told.map(({ at, ...more }) => run(at, more));
        const marks = threadOf(runs, [], { ...OPTIONS, most });
        const sum = (of: (mark: (typeof marks)[number]) => number): number =>
          marks.reduce((total, mark) => total + of(mark), 0);
        expect(marks.length).toBeLessThanOrEqual(most);
        expect(sum(({ rows }) => rows)).toBe(told.reduce((total, { rows }) => total + rows, 0));
        expect(sum(({ times }) => times)).toBe(told.length);
        expect(marks.some(({ kind }) => kind === "failed")).toBe(
          told.some(({ state }) => state === "failed"),
        );
        expect(marks.map(({ at }) => at)).toEqual(
          marks.map(({ at }) => at).sort((left, right) => left - right),
        );
      }),
    );
  });

  test("is counted by kind", () => {
    const marks = threadOf([run(1), run(2), run(3, { state: "failed" })], [], OPTIONS);
    expect(countKinds(marks)).toEqual([
      ["landed", 2],
      ["failed", 1],
    ]);
  });
});
