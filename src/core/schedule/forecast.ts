/** A worker, and the seconds that what it does now will take; 0 when it does nothing, undefined when nobody knows. */
export interface Occupied {
  readonly takesLarge: boolean;
  readonly busyFor: number | undefined;
}

/** A run that waits, and the seconds it will take, where that is known. */
export interface Waiting {
  readonly small: boolean;
  readonly takes: number | undefined;
}

/**
 * The seconds that a run has left. One that takes longer than earlier ones did is thought to be at four fifths: what goes on for long
 * will go on for longer.
 * @param expected by earlier runs
 */
export const secondsLeft = (expected: number, soFar: number): number =>
  Math.max(1, expected - soFar, soFar / 4);

/**
 * In how many seconds the last of the waiting runs begins: workers take the runs in their order, one that takes only small runs
 * leaves the large ones.
 * @param waiting runs in their order, the one asked about last
 * @returns undefined where a duration that decides it is not known, or no worker takes it
 */
export function secondsToStart(
  workers: readonly Occupied[],
  waiting: readonly Waiting[],
): number | undefined {
  const free = workers.map(({ takesLarge, busyFor }) => ({ takesLarge, at: busyFor ?? Infinity }));
  let begins: number | undefined;
  for (const { small, takes } of waiting) {
    const able = free.filter((worker) => small || worker.takesLarge);
    const inOrder = [...able].sort(
      (left, right) => left.at - right.at || Number(left.takesLarge) - Number(right.takesLarge),
    );
    const taker = inOrder[0];
    begins = taker?.at;
    if (taker) taker.at += takes ?? Infinity;
  }
  return begins !== undefined && Number.isFinite(begins) ? begins : undefined;
}
