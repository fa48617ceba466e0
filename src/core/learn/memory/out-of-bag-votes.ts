import { CHUNK } from "./losses";

/** What trees say of the rows that they have not learned from. Memory is taken with the first vote. */
export class OutOfBagVotes {
  private sums: readonly Float64Array[] = [];
  private trees = new Uint16Array(0);

  /** @param outputs numbers in a vote: one per class, or one */
  constructor(
    private readonly rows: number,
    private readonly outputs: number,
  ) {}

  /** Adds one tree's vote on a row. */
  add(row: number, vote: readonly number[]): void {
    if (this.trees.length === 0) {
      this.trees = new Uint16Array(this.rows);
      this.sums = Array.from({ length: this.outputs }, () => new Float64Array(this.rows));
    }
    this.trees[row]! += 1;
    for (let output = 0; output < this.outputs; output += 1) this.sums[output]![row]! += vote[output]!;
  }

  /** Losses of the mean vote, and weights, by chunk; and the rows that have votes. Log loss for classes and for yes and no, squares for numbers. */
  losses(
    target: Float64Array,
    weight: Float64Array | undefined,
    kind: "classes" | "binary" | "number",
  ): { readonly losses: Float64Array; readonly weights: Float64Array; readonly rows: number } {
    const chunks = Math.ceil(this.rows / CHUNK);
    const [losses, weights] = [new Float64Array(chunks), new Float64Array(chunks)];
    let rows = 0;
    for (let row = 0; row < this.trees.length; row += 1) {
      const trees = this.trees[row]!;
      if (trees === 0) continue;
      const y = target[row]!;
      const share = (output: number): number => this.sums[output]![row]! / trees;
      const ofAnswer = y === 1 ? share(0) : 1 - share(0);
      const likely = kind === "classes" ? share(y) : ofAnswer;
      const times = weight === undefined ? 1 : weight[row]!;
      const chunk = Math.floor(row / CHUNK);
      rows += 1;
      weights[chunk]! += times;
      losses[chunk]! +=
        times * (kind === "number" ? (y - share(0)) ** 2 : -Math.log(Math.max(likely, 1e-15)));
    }
    return { losses, weights, rows };
  }
}
