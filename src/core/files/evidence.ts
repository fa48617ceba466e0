import { classify, Fits } from "./classify";

/** Different values that are told apart while none occurred twice, and once one did. */
const MOST_DISTINCT = 200_000;
/** A column that repeats itself is known well after so many rows; from then on one value in eight is told apart. */
const KNOWN_ROWS = 100_000;
/** Looked up once: these are asked for at every value. */
const { EMPTY, MARKER, INTEGER, BIGINT } = Fits;
const MOST_REPEATED = 2000;
const MOST_EXAMPLES = 5;
/** Values whose class is remembered: most columns repeat a few. */
const REMEMBERED = 512;

/** What all values of a column say about it, gathered value by value in bounded memory. */
export class ColumnEvidence {
  /** How many values have each sum of {@link Fits}. */
  readonly masks = new Map<number, number>();
  /** How often each marker for "no value" occurs. */
  readonly markers = new Map<string, number>();
  readonly examples: string[] = [];
  rows = 0;
  missing = 0;
  longest = 0;
  private seen: Set<string> | undefined = new Set();
  private repeated = false;
  private lastNumber = Number.NEGATIVE_INFINITY;
  private rising = true;
  /** Values that only rose, and were not told apart by name. */
  private risen = 0;
  private most = 0;
  private sampled = false;
  private readonly remembered = new Map<string, number>();

  add(value: string | null): void {
    this.rows += 1;
    if (value === null) {
      this.missing += 1;
      return;
    }
    const mask = this.classOf(value);
    this.masks.set(mask, (this.masks.get(mask) ?? 0) + 1);
    if ((mask & EMPTY) !== 0) {
      this.missing += 1;
      return;
    }
    if ((mask & MARKER) !== 0) {
      const marker = value.trim();
      this.markers.set(marker, (this.markers.get(marker) ?? 0) + 1);
    } else if (this.examples.length < MOST_EXAMPLES && !this.examples.includes(value))
      this.examples.push(value.slice(0, 80));
    if (value.length > this.longest) this.longest = value.length;
    this.count(value, mask);
  }

  private classOf(value: string): number {
    // In a column of ever new values looking one up only costs.
    if (this.remembered.size >= REMEMBERED) return classify(value);
    const known = this.remembered.get(value);
    if (known !== undefined) return known;
    const mask = classify(value);
    if (value.length < 40) this.remembered.set(value, mask);
    return mask;
  }

  /** Different values, until it is known that there are too many. A rising row of numbers needs no memory. */
  private count(value: string, mask: number): void {
    if (this.rising) {
      const number = (mask & (INTEGER | BIGINT)) === 0 ? Number.NaN : Number(value);
      this.rising = number > this.lastNumber && Number.isSafeInteger(number);
      this.lastNumber = number;
      // A rising column needs no set to be known as unique.
      if (this.rising && this.rows > REMEMBERED) {
        this.risen += 1;
        return;
      }
    }
    if (!this.seen) return;
    if (this.repeated && this.rows > KNOWN_ROWS && this.rows % 8 !== 0) {
      this.sampled = true;
      return;
    }
    const before = this.seen.size;
    this.seen.add(value.length > 64 ? `${value.slice(0, 64)}…${value.length}` : value);
    if (this.seen.size === before) this.repeated = true;
    else if (this.seen.size > (this.repeated ? MOST_REPEATED : MOST_DISTINCT)) {
      this.most = this.seen.size;
      this.seen = undefined;
    }
  }

  get distinct(): { readonly count: number; readonly exact: boolean } {
    if (this.rising) return { count: this.rows - this.missing, exact: true };
    return {
      count: (this.seen?.size ?? this.most) + this.risen,
      exact: this.seen !== undefined && this.risen === 0 && !this.sampled,
    };
  }

  /** Whether no value occurred twice, as far as that is known. */
  get unique(): boolean {
    return this.rows > 0 && (this.rising || !this.repeated);
  }

  /** The few values that a column of categories has; undefined when there are many. */
  values(most: number): readonly string[] | undefined {
    return this.seen && this.seen.size <= most && this.risen === 0 ? [...this.seen] : undefined;
  }
}
