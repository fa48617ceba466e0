import { LRUCache } from "lru-cache";
import { askingFor, currentAsker } from "@/warehouse/asking";

/** How many answers are kept. */
const MOST = 400;

interface Entry<T> {
  readonly made: Promise<T>;
  readonly stop: AbortController;
  /** Those who wait for it and have not gone away. */
  waiting: number;
  done: boolean;
}

/**
 * Answers that cost a look at many rows, kept under a key that changes with whatever they depend on. Whoever asks while one is being
 * made waits for the same one; it is given up only when all of them have gone away.
 */
export class Remembered<T> {
  private readonly entries = new LRUCache<string, Entry<T>>({ max: MOST });

  get(key: string, make: () => Promise<T>): Promise<T> {
    const entry = this.entries.get(key) ?? this.begin(key, make);
    this.join(key, entry);
    return entry.made;
  }

  private begin(key: string, make: () => Promise<T>): Entry<T> {
    const stop = new AbortController();
    const entry: Entry<T> = { made: askingFor(stop.signal, make), stop, waiting: 0, done: false };
    this.entries.set(key, entry);
    entry.made.then(
      () => {
        entry.done = true;
      },
      () => this.forget(key, entry),
    );
    return entry;
  }

  private join(key: string, entry: Entry<T>): void {
    entry.waiting += 1;
    const signal = currentAsker();
    const leave = (): void => {
      entry.waiting -= 1;
      if (entry.done || entry.waiting > 0) return;
      this.forget(key, entry);
      entry.stop.abort();
    };
    if (signal?.aborted) leave();
    else signal?.addEventListener("abort", leave, { once: true });
  }

  private forget(key: string, entry: Entry<T>): void {
    if (this.entries.get(key) === entry) this.entries.delete(key);
  }
}
