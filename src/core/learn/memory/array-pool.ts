/** Arrays that are used again: fresh memory costs more than what is done with it. */
export class ArrayPool {
  private readonly arrays = new Map<number, Float64Array[]>();
  private readonly given = new Map<number, number>();

  take(length: number): Float64Array {
    const known = this.arrays.get(length) ?? [];
    const place = this.given.get(length) ?? 0;
    this.given.set(length, place + 1);
    known[place] ??= new Float64Array(length);
    this.arrays.set(length, known);
    return known[place];
  }

  /** Everything that was taken may be taken again. */
  giveBack(): void {
    this.given.clear();
  }
}
