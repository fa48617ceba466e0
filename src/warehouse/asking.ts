import { AsyncLocalStorage } from "node:async_hooks";

/**
 * One for the whole process: the web server loads this module several times, and whoever asks must be known in all
 * of them.
 */
const shared = globalThis as typeof globalThis & {
  ravlenAsker?: AsyncLocalStorage<AbortSignal | undefined>;
};
const asker = (shared.ravlenAsker ??= new AsyncLocalStorage<AbortSignal | undefined>());

/**
 * Does work on behalf of somebody who may go away: what it asks the warehouse meanwhile is cancelled there when
 * the signal says so.
 */
export const askingFor = <T>(signal: AbortSignal | undefined, work: () => Promise<T>): Promise<T> =>
  asker.run(signal, work);

/** Who waits for the answers to what is asked now; undefined where nobody may go away. */
export const currentAsker = (): AbortSignal | undefined => asker.getStore();
