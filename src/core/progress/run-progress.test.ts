import fc from "fast-check";
import { progressOf, type TimedStep, type UsualTime } from "./run-progress";

const usual: readonly UsualTime[] = [
  { name: "prepare", milliseconds: 1000, times: 1 },
  { name: "fold: first half", milliseconds: 400, times: 2 },
  { name: "fold: second half", milliseconds: 600, times: 2 },
  { name: "score", milliseconds: 1000, times: 1 },
];
const step = (name: string, startedAt: number, finishedAt: number | null): TimedStep => ({
  name,
  startedAt,
  finishedAt,
});

describe("progress of a run", () => {
  it("is half way when half of the usual time is taken", () => {
    const steps = [step("prepare", 0, 1000), step("fold: a", 1000, 1500), step("fold: b", 1500, null)];
    expect(progressOf(steps, usual, undefined, 2000)).toEqual({
      share: 0.5,
      left: 2000,
      basis: "earlier runs",
    });
  });

  it("goes by a count within the current step where there were no earlier runs, and says nothing without either", () => {
    const steps = [step("prepare", 0, 1000), step("search", 1000, null)];
    const counted = { what: "trials", done: 2, of: 10 };
    expect(progressOf(steps, [], counted, 3000)).toEqual({ share: 3 / 11, left: 8000, basis: "count" });
    expect(progressOf(steps, [], { ...counted, done: 0 }, 3000).share).toBeNull();
    expect(progressOf([], usual, undefined, 3000).left).toBeNull();
  });

  it("never goes back while one step takes longer than usual, and is never done before the end", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 60_000 }),
        fc.integer({ min: 0, max: 60_000 }),
        (first, second) => {
          const steps = [step("prepare", 0, null)];
          const [early, late] = [Math.min(first, second), Math.max(first, second)].map(
            (now) => progressOf(steps, usual, undefined, now).share!,
          );
          expect(late).toBeGreaterThanOrEqual(early!);
          expect(late).toBeLessThan(1);
        },
      ),
    );
  });
});
