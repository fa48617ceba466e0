import { curvatureScale, gradientScale } from "@/core/learn/trees/exact";
import { halfway, partingShares, quantileCuts, quantileShares } from "@/core/learn/trees/cuts";
import {
  statisticsOf,
  type Strata,
  type AppliedSplit,
  type HistogramRequest,
  type Losses,
  type NodeHistogram,
  type RowSample,
  type TreeQuestions,
  type TreeStart,
} from "@/core/learn/trees/tree-questions";
import type { AnswerRow } from "@/core/learn/sql/answers";
import { whereOf, type FrameSource } from "@/core/learn/sql/source";
import {
  additionSql,
  distinctSql,
  gradientsSql,
  histogramSql,
  keptSql,
  lossesSql,
  mediansSql,
  oftenSql,
  outOfBagSql,
  quantilesSql,
  rootSql,
  stateSql,
  strataSql,
  targetCutsSql,
  votesSql,
} from "@/core/learn/sql/tree-sql";
import { classCount } from "@/core/learn/task";
import type { AskedFrame } from "./frame-questions";

type Ask = (sql: string, purpose: string) => Promise<readonly AnswerRow[]>;
type Run = (sql: string, purpose: string) => Promise<void>;

interface State {
  readonly start: TreeStart;
  readonly binCounts: readonly number[];
  readonly statistics: number;
  readonly gini: number;
  readonly rows: number;
}

/** Answers the questions of trees by statements over a table of bins in the warehouse, written anew every round. */
export class WarehouseTrees implements TreeQuestions {
  private state: State | undefined;
  private current = 0;
  private often = "1";
  private scales = { gradient: 1, curvature: 1 };
  /** What trees of this round add to each output. */
  private additions: { readonly output: number; readonly sql: string }[] = [];
  private voted = false;

  constructor(
    private readonly ask: Ask,
    private readonly run: Run,
    private readonly source: FrameSource,
    private readonly asked: AskedFrame,
  ) {}

  private get now(): State {
    if (!this.state) throw new Error("begin() comes first");
    return this.state;
  }

  private get table(): string {
    return this.asked.states[this.current]!;
  }

  async cuts(mostBins: number): Promise<readonly Float64Array[]> {
    const [counted] = await this.ask(
      `SELECT count(*)::double precision AS rows FROM ${this.source.table}${whereOf(this.source)}`,
      "count rows",
    );
    const total = counted?.["rows"] ?? 0;
    const cuts: Float64Array[] = [];
    for (const name of this.asked.numbers) {
      const rows = await this.ask(
        distinctSql(this.source, name, total, mostBins),
        `distinct values of ${name}`,
      );
      // PostgreSQL orders what is not a number above every number; in the core that is infinity.
      const values = [
        ...new Set(rows.map((row) => (Number.isNaN(row["value"]) ? Infinity : Number(row["value"])))),
      ];
      if (rows.length <= mostBins) cuts.push(halfway(values));
      else {
        const [row] = await this.ask(
          quantilesSql(this.source, name, total, quantileShares(mostBins)),
          `quantiles of ${name}`,
        );
        const quantiles = (row as unknown as { readonly quantiles: readonly number[] }).quantiles.map(
          (quantile) => (Number.isNaN(quantile) ? Infinity : quantile),
        );
        cuts.push(quantileCuts(quantiles, values[0]!));
      }
    }
    return cuts;
  }

  async targetCuts(parts: number): Promise<readonly number[]> {
    const [row] = await this.ask(targetCutsSql(this.source, partingShares(parts)), "quantiles of the target");
    return (row as unknown as { readonly cuts: readonly number[] }).cuts;
  }

  async strata(strata: Strata, shares: readonly number[]): Promise<readonly (readonly number[])[]> {
    const rows = (await this.ask(
      strataSql(this.source, strata, shares),
      "draw rows in strata of the target",
    )) as unknown as readonly { readonly stratum: number; readonly parts: readonly (number | null)[] }[];
    const parts = new Map(rows.map((row) => [row.stratum, row.parts]));
    return Array.from({ length: strata.cuts.length + 1 }, (_, stratum) =>
      shares.map((_share, place) => parts.get(stratum)?.[place] ?? Infinity),
    );
  }

  async begin(start: TreeStart): Promise<void> {
    const { numbers, categories, task } = this.asked;
    const classes = classCount(task);
    for (const table of this.asked.states)
      await this.run(`DROP TABLE IF EXISTS ${table}`, "drop an earlier state");
    this.current = 0;
    this.voted = false;
    this.additions = [];
    await this.run(
      stateSql(
        this.source,
        this.table,
        { numbers, categories: categories.map((category) => category.column) },
        start,
      ),
      "put rows into bins",
    );
    const [row] = await this.ask(
      `SELECT count(*)::double precision AS rows, max(wt) AS heaviest, sum(wt) AS total FROM ${this.table}`,
      "count rows",
    );
    this.state = {
      start,
      statistics: statisticsOf(start.loss, classes),
      gini: start.loss === "gini" ? classes : 0,
      rows: row?.["rows"] ?? 0,
      binCounts: [
        ...start.cuts.map((cut) => cut.length + 2),
        ...categories.map((category) => category.levels.length + 1),
      ],
    };
    this.scales = {
      gradient: gradientScale(this.state.rows, row?.["heaviest"] ?? 1),
      curvature: curvatureScale(this.state.rows, row?.["total"] ?? 0, start.loss),
    };
  }

  private get columns(): number {
    return this.asked.numbers.length + this.asked.categories.length;
  }

  private get held(): boolean {
    return this.now.start.held !== undefined;
  }

  private scoresSql(): string {
    return Array.from({ length: this.now.start.outputs }, (_, output) => {
      const added = this.additions
        .filter((addition) => addition.output === output)
        .map((addition) => ` + ${addition.sql}`)
        .join("");
      return `s${output}${added} AS s${output}`;
    }).join(", ");
  }

  /** Writes the state anew: kept columns, scores with what trees added, and further columns computed from the result. */
  private async rewrite(further: string, purpose: string): Promise<void> {
    const next = this.asked.states[1 - this.current]!;
    const votes = this.voted
      ? `, ${Array.from({ length: Math.max(1, this.now.gini) }, (_, output) => `v${output}`).join(", ")}, voted`
      : "";
    const inner = `SELECT ${keptSql(this.columns, this.held)}, ${this.scoresSql()}${votes}, pg_is_in_recovery() AS fence FROM ${this.table}`;
    const scores = Array.from({ length: this.now.start.outputs }, (_, output) => `s${output}`).join(", ");
    await this.run(`DROP TABLE IF EXISTS ${next}`, "drop the previous state");
    await this.run(
      `CREATE UNLOGGED TABLE ${next} AS SELECT ${keptSql(this.columns, this.held)}, ${scores}${further} FROM (${inner}) AS scored`,
      purpose,
    );
    this.current = 1 - this.current;
    this.additions = [];
  }

  async beginRound(): Promise<void> {
    const { start, rows } = this.now;
    if (start.loss === "squared") {
      const [row] = await this.ask(
        `SELECT max(abs((${this.additions.reduce((sum, addition) => `${sum} + ${addition.sql}`, "s0")}) - y) * wt) AS most FROM ${this.table}`,
        "largest gradient",
      );
      this.scales = { ...this.scales, gradient: gradientScale(rows, row?.["most"] ?? 0) };
    }
    await this.rewrite(
      `, ${gradientsSql(start.loss, start.outputs, this.scales)}`,
      "scores and gradients of this round",
    );
  }

  private read(row: AnswerRow | undefined): Float64Array {
    const { statistics, gini } = this.now;
    const { gradient, curvature } = this.scales;
    return Float64Array.from({ length: statistics }, (_, index) => {
      const value = row?.[`x${index}`] ?? 0;
      if (index === statistics - 1) return value;
      return value / (gini > 0 || index === 0 ? gradient : curvature);
    });
  }

  async grow(output: number, sample: RowSample): Promise<Float64Array> {
    this.often = oftenSql(sample, this.held);
    this.output = output;
    const [row] = await this.ask(
      rootSql(this.table, output, this.often, this.now.gini),
      "sums over all rows",
    );
    return this.read(row);
  }

  private output = 0;

  async histograms(
    splits: readonly AppliedSplit[],
    wanted: readonly HistogramRequest[],
  ): Promise<readonly NodeHistogram[]> {
    const { statistics, binCounts, gini } = this.now;
    const columns = [...new Set(wanted.flatMap((request) => request.columns))].sort(
      (left, right) => left - right,
    );
    const sums = new Map<string, Float64Array>();
    for (const column of columns) {
      const nodes = wanted
        .filter((request) => request.columns.includes(column))
        .map((request) => request.node);
      for (const node of nodes)
        sums.set(`${node}/${column}`, new Float64Array(binCounts[column]! * statistics));
      const rows = await this.ask(
        histogramSql(this.table, splits, column, nodes, this.output, this.often, gini),
        `sums by bin of ${this.nameOf(column)}`,
      );
      for (const row of rows)
        sums.get(`${row["node"]}/${column}`)!.set(this.read(row), row["bin"]! * statistics);
    }
    return wanted.map(({ node, columns: asked }) => {
      const parts = asked.map((column) => sums.get(`${node}/${column}`)!);
      const whole = new Float64Array(parts.reduce((size, part) => size + part.length, 0));
      let place = 0;
      return {
        node,
        sums: whole,
        columns: asked.map((column, index) => {
          const from = place;
          whole.set(parts[index]!, from);
          place += parts[index]!.length;
          return { column, from, to: place };
        }),
      };
    });
  }

  private nameOf(column: number): string {
    const { numbers, categories } = this.asked;
    return numbers[column] ?? categories[column - numbers.length]?.column ?? "a column";
  }

  async medians(splits: readonly AppliedSplit[], nodes: readonly number[]): Promise<readonly number[]> {
    const rows = await this.ask(mediansSql(this.table, splits, this.often), "median residual by leaf");
    const byNode = new Map(rows.map((row) => [row["node"], row["median"]]));
    return nodes.map((node) => byNode.get(node) ?? Number.NaN);
  }

  add(
    output: number,
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly number[],
  ): Promise<void> {
    this.additions.push({ output, sql: additionSql(splits, nodes, values) });
    return Promise.resolve();
  }

  async vote(
    splits: readonly AppliedSplit[],
    nodes: readonly number[],
    values: readonly (readonly number[])[],
  ): Promise<void> {
    const outputs = Math.max(1, this.now.gini);
    if (!this.voted) {
      await this.withVotes(outputs);
      this.voted = true;
    }
    const next = this.asked.states[1 - this.current]!;
    const kept = `${keptSql(this.columns, this.held)}, s0, g0, h0`;
    await this.run(`DROP TABLE IF EXISTS ${next}`, "drop the previous state");
    await this.run(
      `CREATE UNLOGGED TABLE ${next} AS SELECT ${kept}, ${votesSql(splits, nodes, values, outputs, this.often)} FROM ${this.table}`,
      "votes for out-of-bag rows",
    );
    this.current = 1 - this.current;
  }

  private async withVotes(outputs: number): Promise<void> {
    const next = this.asked.states[1 - this.current]!;
    const votes = Array.from({ length: outputs }, (_, output) => `0::double precision AS v${output}`).join(
      ", ",
    );
    await this.run(`DROP TABLE IF EXISTS ${next}`, "drop the previous state");
    await this.run(
      `CREATE UNLOGGED TABLE ${next} AS SELECT ${keptSql(this.columns, this.held)}, s0, g0, h0, ${votes}, 0::double precision AS voted FROM ${this.table}`,
      "start counting votes",
    );
    this.current = 1 - this.current;
  }

  async losses(): Promise<Losses> {
    const { start } = this.now;
    const scores = `(SELECT y, wt${this.held ? ", held" : ""}, ${this.scoresSql()}, pg_is_in_recovery() AS fence FROM ${this.table}) AS scored`;
    const rows = (await this.ask(
      lossesSql(scores, start.loss, start.outputs, this.held),
      "loss so far",
    )) as readonly (AnswerRow & { readonly held: unknown })[];
    const of = (held: boolean): number =>
      Number(rows.find((row) => (row.held as unknown) === held)?.["loss"] ?? Number.NaN);
    return { training: of(false), ...(this.held ? { validation: of(true) } : {}) };
  }

  async outOfBag(): Promise<{ loss: number; rows: number }> {
    const { kind } = this.asked.task;
    const [row] = await this.ask(
      outOfBagSql(this.table, Math.max(1, this.now.gini), kind === "classes" ? "gini" : kind),
      "out-of-bag error",
    );
    return { loss: row?.["loss"] ?? Number.NaN, rows: row?.["rows"] ?? 0 };
  }

  async end(): Promise<void> {
    for (const table of this.asked.states)
      await this.run(`DROP TABLE IF EXISTS ${table}`, "remove the state");
    this.state = undefined;
  }
}
