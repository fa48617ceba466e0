import { readFileSync } from "node:fs";
import { confusionAt, curveConfusions } from "@/core/evaluate/score-curve";
import { modelAs, openBench, type Bench } from "../../testing/warehouse";

const FOLDER = "testing/reference";
const read = <T>(name: string): T => JSON.parse(readFileSync(`${FOLDER}/${name}`, "utf8")) as T;

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

const relative = (value: number, expected: number): number => Math.abs(value - expected) / Math.abs(expected);

interface InfertReference {
  readonly coefficients: Readonly<Record<string, number>>;
  readonly standard_errors: Readonly<Record<string, number>>;
  readonly z_values: Readonly<Record<string, number>>;
  readonly p_values: Readonly<Record<string, number>>;
  readonly probabilities: readonly number[];
  readonly deviance: number;
  readonly log_loss: number;
  readonly brier: number;
  readonly auc: number;
  readonly "at_threshold_0.5": {
    readonly tp: number;
    readonly fp: number;
    readonly fn: number;
    readonly tn: number;
  };
}

// Every row is there twice, once on each side of a holdout by time: the model is judged on a copy of the rows it learned from, as the reference is.
const INFERT = `ravlen: 1
name: infert
strands:
  - name: rows
    from: study.infert
    steps:
      - {do: drop, columns: [line]}
roles:
  key: [id]
  target: {column: case, kind: binary, positive: 1}
  time: seen
rows: {from: rows, train: 'true', score: 'true'}
holdout: {by: time, from: '2026-06-01'}
candidates:
  - name: plain
    algorithm: logistic_regression
    settings: {reference: {education: 0-5yrs}}
  - name: by passes over all rows
    algorithm: logistic_regression
    settings: {reference: {education: 0-5yrs}, sample_rows: 1000}
`;

describe("logistic regression against the reference", () => {
  const reference = read<InfertReference>("infert.logistic.json");
  const names: Readonly<Record<string, string>> = {
    "(Intercept)": "intercept",
    "education6-11yrs": "education = 6-11yrs",
    "education12+ yrs": "education = 12+ yrs",
  };

  beforeAll(async () => {
    const [header, ...lines] = readFileSync(`${FOLDER}/infert.csv`, "utf8").trim().split("\n");
    expect(header).toBe("education,age,parity,induced,case,spontaneous");
    await bench.sql("CREATE SCHEMA study");
    await bench.sql(
      'CREATE TABLE study.infert (id integer PRIMARY KEY, line integer, seen date, education text, age integer, parity integer, induced integer, "case" integer, spontaneous integer)',
    );
    await bench.admin(async (client) => {
      for (const [index, line] of lines.entries()) {
        const values = line.split(",");
        for (const [copy, seen] of ["2026-01-01", "2026-06-01"].entries())
          await client.query("INSERT INTO study.infert VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9)", [
            2 * index + copy,
            index,
            seen,
            ...values,
          ]);
      }
    });
    await bench.save(INFERT);
  });

  test("coefficients, errors, z, p and metrics agree to 1e-6", async () => {
    const model = await bench.train("infert");
    expect(model.model.fit.rows).toBe(248);
    for (const [term, estimate] of Object.entries(reference.coefficients)) {
      const row = modelAs(model, "logistic_regression").coefficients.find(
        (coefficient) => coefficient.term === (names[term] ?? term),
      )!;
      expect(relative(row.estimate, estimate)).toBeLessThan(1e-6);
      expect(relative(row.error!, reference.standard_errors[term]!)).toBeLessThan(1e-6);
      expect(relative(row.ratio!, reference.z_values[term]!)).toBeLessThan(1e-6);
      expect(relative(row.p!, reference.p_values[term]!)).toBeLessThan(1e-6);
    }
    const { metrics } = model;
    expect(relative(2 * model.model.fit.meanLoss! * 248, reference.deviance)).toBeLessThan(1e-6);
    expect(relative(metrics.log_loss!, reference.log_loss)).toBeLessThan(1e-6);
    expect(relative(metrics.brier!, reference.brier)).toBeLessThan(1e-6);
    expect(relative(metrics.auc!, reference.auc)).toBeLessThan(1e-6);
    expect(confusionAt(curveConfusions(model.judgement!.curve!), 0.5)).toMatchObject(
      reference["at_threshold_0.5"],
    );
  });

  test("the probability of every held-out row agrees to 1e-6", async () => {
    const model = await bench.train("infert");
    const rows = await bench.sql(
      `SELECT h.ravlen_output_0 AS probability FROM scratch.${model.data.holdoutTable} h JOIN study.infert i USING (id) ORDER BY i.line`,
    );
    expect(rows).toHaveLength(248);
    rows.forEach((row, index) =>
      expect(relative(Number(row["probability"]), reference.probabilities[index]!)).toBeLessThan(1e-6),
    );
  });

  test("passes preconditioned with a sample's curvature reach the same solution as Newton on all rows", async () => {
    // 20 copies of the training rows make the sample of 1,000 a real sample; the solution stays the same.
    await bench.sql(
      'CREATE TABLE study.many AS SELECT i.id + 1000 * copy AS id, i.line, i.seen, i.education, i.age, i.parity, i.induced, i."case", i.spontaneous FROM study.infert i, generate_series(0, 19) copy',
    );
    await bench.save(
      INFERT.replace("name: infert\n", "name: infert-many\n").replace("study.infert", "study.many"),
    );
    const run = await bench.run("train", "infert-many", { candidate: "by passes over all rows" });
    expect(run.state).toBe("done");
    const [row] = await bench.context.store.pool
      .query<{
        model: {
          coefficients: { term: string; estimate: number }[];
          fit: { passes: { scope: string }[]; sampleRows: number };
        };
      }>("SELECT model FROM model_versions WHERE run_id = $1", [run.id])
      .then((result) => result.rows);
    expect(row!.model.fit.sampleRows).toBeLessThan(1300);
    expect(row!.model.fit.passes.filter((pass) => pass.scope === "all").length).toBeGreaterThan(3);
    for (const [term, estimate] of Object.entries(reference.coefficients)) {
      expect(
        relative(
          row!.model.coefficients.find((coefficient) => coefficient.term === (names[term] ?? term))!.estimate,
          estimate,
        ),
      ).toBeLessThan(1e-8);
    }
  });
});
