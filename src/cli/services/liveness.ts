/** Path at which the web server says that it lives. Nothing is asked for it, not even the database. */
export const ALIVE_PATH = "/alive";

export interface LivenessTimes {
  /** Milliseconds between two questions. */
  readonly every: number;
  /** Milliseconds without an answer after which a process is taken for dead. */
  readonly silent: number;
}

const TIMES: LivenessTimes = { every: 5000, silent: 30_000 };

/**
 * Asks an address again and again, and calls `dead` once when it has not answered for long. Any answer counts: one that says that
 * something is wrong comes from a process that lives.
 * @returns a function that ends the watch
 */
export function watchLiveness(
  address: string,
  dead: () => void,
  { every, silent }: LivenessTimes = TIMES,
): () => void {
  let answered = performance.now();
  const look = async (): Promise<void> => {
    try {
      await fetch(address, { signal: AbortSignal.timeout(silent) });
      answered = performance.now();
    } catch {
      // What counts is how long there has been no answer.
    }
    if (performance.now() - answered < silent) return;
    clearInterval(timer);
    dead();
  };
  let looking: Promise<void> | undefined;
  const timer = setInterval(() => {
    looking ??= look().finally(() => {
      looking = undefined;
    });
  }, every);
  timer.unref();
  return () => clearInterval(timer);
}
