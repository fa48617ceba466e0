import { inStretches, UNWATCHED } from "./pace";

const busyFor = (milliseconds: number): void => {
  const until = performance.now() + milliseconds;
  while (performance.now() < until);
};

test("work in stretches does every item in order, and timers fire meanwhile", async () => {
  const done: number[] = [];
  let beats = 0;
  const beating = setInterval(() => (beats += 1), 20);
  await inStretches(60, UNWATCHED, (index) => {
    busyFor(20);
    done.push(index);
  });
  clearInterval(beating);
  expect(done).toEqual(Array.from({ length: 60 }, (_, index) => index));
  // A stretch is a tenth of a second, and all of it takes more than a second.
  expect(beats).toBeGreaterThan(5);
});

test("work that is given up ends at its next breath", async () => {
  let done = 0;
  const pace = { ...UNWATCHED, breathe: () => Promise.reject(new Error("given up")) };
  await expect(
    inStretches(1000, pace, () => {
      busyFor(30);
      done += 1;
    }),
  ).rejects.toThrow("given up");
  expect(done).toBeLessThan(10);
});
