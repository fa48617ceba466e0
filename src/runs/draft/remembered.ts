/** How many answers are kept. */
const MOST = 400;

/** Answers that cost a look at many rows, kept under a key that changes with whatever they depend on. */
export class Remembered<T> {
  private readonly values = new Map<string, Promise<T>>();

  get(key: string, make: () => Promise<T>): Promise<T> {
    const known = this.values.get(key);
    if (known) return known;
    const fresh = make();
    this.values.set(key, fresh);
    fresh.catch(() => this.values.delete(key));
    const [oldest] = this.values.keys();
    if (this.values.size > MOST && oldest !== undefined) this.values.delete(oldest);
    return fresh;
  }
}
