/**
 * A small seeded generator of uniform numbers in [0, 1): the same seed gives the same data on every machine.
 * Source: Blackman and Vigna, "Scrambled linear pseudorandom number generators" (xoshiro128**), 2021.
 */
export class Random {
  private readonly state: Uint32Array;

  constructor(seed: number) {
    // SplitMix32 spreads a small seed over the state.
    let value = seed >>> 0;
    this.state = Uint32Array.from({ length: 4 }, () => {
      value = (value + 0x9e3779b9) >>> 0;
      let mixed = value ^ (value >>> 16);
      mixed = Math.imul(mixed, 0x21f0aaad);
      mixed ^= mixed >>> 15;
      mixed = Math.imul(mixed, 0x735a2d97);
      return (mixed ^ (mixed >>> 15)) >>> 0;
    });
  }

  uniform(): number {
    const s = this.state;
    const product = Math.imul(s[1]!, 5);
    const result = Math.imul((product << 7) | (product >>> 25), 9) >>> 0;
    const t = s[1]! << 9;
    s[2]! ^= s[0]!;
    s[3]! ^= s[1]!;
    s[1]! ^= s[2]!;
    s[0]! ^= s[3]!;
    s[2]! ^= t;
    s[3] = (s[3]! << 11) | (s[3]! >>> 21);
    return result / 4294967296;
  }

  /** Standard normal, by the Box-Muller transform. */
  normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.uniform())) * Math.cos(2 * Math.PI * this.uniform());
  }

  exponential(mean: number): number {
    return -mean * Math.log(1 - this.uniform());
  }

  chance(probability: number): boolean {
    return this.uniform() < probability;
  }

  pick<T>(items: readonly T[]): T {
    return items[Math.floor(this.uniform() * items.length)]!;
  }

  /** One item, each with its weight. */
  weighted<T>(items: readonly (readonly [T, number])[]): T {
    let left = this.uniform() * items.reduce((sum, [, weight]) => sum + weight, 0);
    for (const [item, weight] of items) {
      left -= weight;
      if (left < 0) return item;
    }
    return items.at(-1)![0];
  }
}
