/** A call that is made again and again while work is done. */
export interface Heartbeat {
  /** Makes no more calls, and resolves when the last one has ended. */
  readonly stop: () => Promise<void>;
}

/**
 * Calls `beat` every so many milliseconds, one call at a time, until it is stopped. `beat` is given a function that
 * tells whether that has happened in the meantime: a beat that finds its run ended must then do nothing about it,
 * because the session it would cancel may already work for another run.
 */
export function startHeartbeat(
  milliseconds: number,
  beat: (stopped: () => boolean) => Promise<void>,
): Heartbeat {
  let stopped = false;
  let beating: Promise<void> | undefined;
  const timer = setInterval(() => {
    beating ??= beat(() => stopped).finally(() => {
      beating = undefined;
    });
  }, milliseconds);
  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      await beating;
    },
  };
}
