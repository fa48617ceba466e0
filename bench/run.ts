import { formatNumber } from "@/core/format/numbers";
import { runById, runRecord, runStatementsOf } from "@/store/runs";
import { describeProblem } from "@/core/problem";
import type { AdminLogin } from "@/cli/services/postgres";
import { openBench, type Bench } from "../testing/warehouse";
import { BENCH_FILE, BENCH_NUMBER_FILE, benchTable, CONSTANT_WRITE, HAND_WRITTEN_FRAME } from "./frame";

/** One line of the result: how long the work took against a yardstick measured beside it. */
export interface Ratio {
  readonly work: string;
  readonly against: string;
  readonly ratio: number;
  /** The most it may be (DESIGN 14), where a bound is set. */
  readonly most?: number;
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const started = performance.now();
  await work();
  return performance.now() - started;
}

const median = (values: readonly number[]): number =>
  [...values].sort((left, right) => left - right)[Math.floor(values.length / 2)]!;

/** Milliseconds of a run's steps by name, and of its statements by purpose. */
async function record(
  bench: Bench,
  kind: "train" | "score",
  pipeline = "bench",
  candidate?: string,
): Promise<{
  readonly step: (name: string) => number;
  readonly statements: (purpose: string) => readonly number[];
}> {
  const { id } = await bench.run(kind, pipeline, candidate === undefined ? {} : { candidate });
  const run = (await runById(bench.context.store.db, id))!;
  if (run.state !== "done") throw new Error(run.problems.map(describeProblem).join("; "));
  const { steps } = await runRecord(bench.context.store.db, id);
  const statements = await runStatementsOf(bench.context.store.db, id);
  return {
    step: (name) => {
      const step = steps.find((step) => step.name === name);
      if (!step?.finishedAt) throw new Error(`the run has no step "${name}"`);
      return step.finishedAt.getTime() - step.startedAt.getTime();
    },
    statements: (purpose) =>
      statements
        .filter((statement) => statement.purpose === purpose)
        .map((statement) => statement.milliseconds),
  };
}

/** Scores with the newest version of the pipeline, against the same write of constants. */
async function scored(bench: Bench): Promise<number> {
  await bench.context.store.pool.query(
    "UPDATE pipelines p SET in_service_model_id = (SELECT max(id) FROM model_versions m WHERE m.pipeline_id = p.id)",
  );
  await bench.sql("DROP TABLE IF EXISTS predictions.bench");
  const scoring = await record(bench, "score");
  const constant = await bench.admin(async (client) => {
    await client.query(`DROP TABLE IF EXISTS bench.constant; ${CONSTANT_WRITE.table}; CHECKPOINT`);
    return timed(() => client.query(CONSTANT_WRITE.write));
  });
  return (
    (scoring.step("score into a staged table") +
      scoring.step("check the staged rows") +
      scoring.step("move them into the prediction table")) /
    constant
  );
}

/** Measures the rows of DESIGN 14 that concern the warehouse and the learners, each several times, on a frame of its own. Only ratios within this run mean anything. */
export async function runBench(
  admin: AdminLogin,
  rows: number,
  rounds: number,
  say: (line: string) => void,
): Promise<readonly Ratio[]> {
  const bench = await openBench(admin);
  try {
    say(`making ${formatNumber(rows)} rows`);
    await bench.admin(async (client) => {
      for (const statement of benchTable(rows).split(";\n")) await client.query(statement);
    });
    await bench.save(BENCH_FILE);
    await bench.save(BENCH_NUMBER_FILE);
    const results: Record<
      "frame" | "gradient" | "logistic" | "linear" | "stream" | "boosted" | "scoring" | "trees",
      number[]
    > = {
      frame: [],
      gradient: [],
      logistic: [],
      linear: [],
      stream: [],
      boosted: [],
      scoring: [],
      trees: [],
    };
    for (let round = 1; round <= rounds; round += 1) {
      say(`round ${round} of ${rounds}`);
      // The yardsticks are measured anew in every round, close to what is held against them.
      const { hand, copy } = await bench.admin(async (client) => {
        await client.query(
          "SET jit = off; SET max_parallel_workers_per_gather = 2; DROP TABLE IF EXISTS bench.frame",
        );
        const byHand = await timed(() => client.query(HAND_WRITTEN_FRAME));
        await client.query("VACUUM bench.frame");
        return {
          hand: byHand,
          copy: median([
            await timed(() => client.query("COPY bench.frame TO '/dev/null' WITH (FORMAT binary)")),
            await timed(() => client.query("COPY bench.frame TO '/dev/null' WITH (FORMAT binary)")),
            await timed(() => client.query("COPY bench.frame TO '/dev/null' WITH (FORMAT binary)")),
          ]),
        };
      });
      const training = await record(bench, "train");
      results.frame.push(training.statements("training frame")[0]! / hand);
      results.gradient.push(median(training.statements("loss and gradient over all rows")) / copy);
      results.logistic.push(training.step("train in the warehouse") / copy);
      results.linear.push(
        (await record(bench, "train", "bench-number")).step("train in the warehouse") / copy,
      );
      results.scoring.push(await scored(bench));
      const boosted = await record(bench, "train", "bench", "boosted");
      const streamed = boosted.statements("stream the training frame to the worker")[0]!;
      results.stream.push(streamed / copy);
      results.boosted.push((boosted.step("train on streamed rows") - streamed) / copy);
      results.trees.push(await scored(bench));
    }
    return [
      {
        work: "training frame built",
        against: "the same SELECT by hand",
        ratio: median(results.frame),
        most: 1.5,
      },
      {
        work: "one gradient pass over all rows",
        against: "one binary COPY of the frame",
        ratio: median(results.gradient),
      },
      {
        work: "logistic regression to 1e-8",
        against: "one binary COPY of the frame",
        ratio: median(results.logistic),
        most: 2.5,
      },
      {
        work: "linear regression to 1e-8",
        against: "one binary COPY of the frame",
        ratio: median(results.linear),
        most: 1.5,
      },
      {
        work: "frame streamed into typed arrays",
        against: "one binary COPY of the frame",
        ratio: median(results.stream),
        most: 1.2,
      },
      {
        work: "100 boosted trees of depth 6, after streaming",
        against: "one binary COPY of the frame",
        ratio: median(results.boosted),
        most: 9,
      },
      {
        work: "100 trees of depth 6 scored, staged, checked and moved",
        against: "the same write of a constant",
        ratio: median(results.trees),
        most: 6,
      },
      {
        work: "linear model scored, staged, checked and moved",
        against: "the same write of a constant",
        ratio: median(results.scoring),
        most: 1.5,
      },
    ];
  } finally {
    await bench.close();
  }
}
