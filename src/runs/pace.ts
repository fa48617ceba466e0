/** How a long computation gives way to what else its process does, and tells that it goes on. */
export interface Pace {
  /** Lets timers and messages through; throws when the work is to be given up. */
  readonly breathe: () => Promise<void>;
  /** Throws when the work is to be given up. */
  readonly stopIfAsked: () => void;
  /** Says that the work goes on. Work that says nothing for long is taken for stuck. */
  readonly goesOn: () => void;
  /** Says how far the work has come. @param what is counted, such as "rows scored" */
  readonly progress: (what: string, done: number, of: number) => void;
}

/** Longest stretch of work between two breaths, in milliseconds: beats and messages of a worker wait no longer. */
const STRETCH_MILLISECONDS = 100;

/** Gives other work of this process its turn. */
export const letThrough = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

/** The pace of work that nobody gives up and nobody watches. */
export const UNWATCHED: Pace = {
  breathe: letThrough,
  stopIfAsked: () => undefined,
  goesOn: () => undefined,
  progress: () => undefined,
};

/** Does something for each of many items, from 0 to less than `count`, and breathes whenever a stretch of it has taken long enough. */
export async function inStretches(count: number, pace: Pace, work: (index: number) => void): Promise<void> {
  let began = performance.now();
  for (let index = 0; index < count; index += 1) {
    work(index);
    if (performance.now() - began < STRETCH_MILLISECONDS) continue;
    await pace.breathe();
    began = performance.now();
  }
}
