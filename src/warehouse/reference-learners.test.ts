import { readFileSync } from "node:fs";
import { fitBayes } from "@/core/learn/naive-bayes/naive-bayes";
import { fitMultinomial } from "@/core/learn/logistic-regression/multinomial";
import { fitRegression } from "@/core/learn/linear-regression/regression";
import { MemoryFrame } from "@/core/learn/memory/memory-frame";
import { predict } from "@/core/learn/compiled";
import { fitNeighbours } from "@/core/learn/nearest-neighbours/neighbours";
import type { FrameQuestions } from "@/core/learn/questions";
import { bayesSettings } from "@/core/learn/naive-bayes/facts";
import { linearSettings } from "@/core/learn/linear-regression/facts";
import { logisticSettings } from "@/core/learn/logistic-regression/facts";
import { neighbourSettings } from "@/core/learn/nearest-neighbours/facts";
import type { FeatureRow, Task } from "@/core/learn/task";
import { learnedRows, type CategoryLevels } from "@/core/plan/frame";
import { unwrap } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "@/warehouse/postgres/dialect/quote";
import { openBench, type Bench } from "../../testing/warehouse";
import { WarehouseFrame } from "./frame-questions";
import { streamFrame } from "./stream-frame";
import type { PostgresSession } from "./postgres/session";

/**
 * The learners against the results of a trusted statistics system, each with both engines over the same frame in
 * the warehouse.
 */
const FOLDER = "testing/reference";
const read = <T>(name: string): T => JSON.parse(readFileSync(`${FOLDER}/${name}`, "utf8")) as T;

interface Study {
  readonly rows: readonly FeatureRow[];
  readonly asked: (engine: "warehouse" | "streaming") => Promise<FrameQuestions>;
  readonly categories: readonly CategoryLevels[];
}

let bench: Bench;
let session: PostgresSession;
beforeAll(async () => {
  bench = await openBench();
  session = await bench.context.warehouse.session();
});
afterAll(async () => {
  session.release();
  await bench.close();
});

/** Loads a data set as a training frame: numbers as they are, texts as categories, the target by name. */
async function study(name: string, target: string, task: Task): Promise<Study> {
  const [head = "", ...lines] = readFileSync(`${FOLDER}/${name}.csv`, "utf8").trim().split("\n");
  const names = head.split(",");
  const rows = lines.map((line) =>
    Object.fromEntries(
      line
        .split(",")
        .map((value, index): [string, string | number] => [
          names[index]!,
          Number.isNaN(Number(value)) ? value : Number(value),
        ]),
    ),
  );
  const features = names.filter((name) => name !== target);
  const numbers = features.filter((feature) => typeof rows[0]![feature] === "number");
  const categories = features
    .filter((feature) => !numbers.includes(feature))
    .map((column) => ({ column, levels: [...new Set(rows.map((row) => String(row[column])))].sort() }));
  const frame = { schema: "scratch", table: `frame_${name.replace("-", "_")}` };
  const columns = [
    "ravlen_part smallint",
    "ravlen_draw double precision",
    "ravlen_target double precision",
    ...numbers.map((number) => `${quoteIdentifier(number)} double precision`),
    ...categories.map((category) => `${quoteIdentifier(category.column)} integer`),
  ];
  await session.run(`DROP TABLE IF EXISTS ${quoteTable(frame)}; `, "again");
  await session.run(`CREATE TABLE ${quoteTable(frame)} (${columns.join(", ")})`, "frame");
  for (const [index, row] of rows.entries()) {
    const answer = task.kind === "classes" ? task.classes.indexOf(String(row[target])) : row[target];
    const values = [
      0,
      index / rows.length,
      answer,
      ...numbers.map((number) => row[number]),
      ...categories.map((category) => category.levels.indexOf(String(row[category.column])) + 1),
    ];
    await session.run(
      `INSERT INTO ${quoteTable(frame)} VALUES (${values.map((_, place) => `$${place + 1}`).join(", ")})`,
      "row",
      values,
    );
  }
  const scratch = (table: string): TableReference => ({
    schema: "scratch",
    table: `${table}_${frame.table}`,
  });
  return {
    rows,
    categories,
    asked: async (engine) =>
      engine === "warehouse"
        ? new WarehouseFrame(session, {
            frame,
            sample: scratch("sample"),
            states: [scratch("a"), scratch("b")],
            numbers,
            categories,
            task,
            condition: learnedRows(),
            weighted: false,
            timed: false,
          })
        : new MemoryFrame(
            task,
            await streamFrame(session, {
              frame,
              condition: learnedRows(),
              numbers,
              categories,
              weighted: false,
              timed: false,
              folded: false,
              rows: rows.length,
            }),
          ),
  };
}

const relative = (value: number, expected: number): number => Math.abs(value - expected) / Math.abs(expected);
const IRIS: Task = { kind: "classes", classes: ["setosa", "versicolor", "virginica"] };

describe.each(["warehouse", "streaming"] as const)("with rows in the %s engine", (engine) => {
  test("least squares on nearly collinear columns: coefficients, errors, t, p, R² to 1e-6", async () => {
    const reference = read<{
      coefficients: Record<string, number>;
      standard_errors: Record<string, number>;
      t_values: Record<string, number>;
      p_values: Record<string, number>;
      r_squared: number;
      residual_standard_error: number;
      predictions: number[];
    }>("longley.linear.json");
    const data = await study("longley", "Employed", { kind: "number" });
    const { model } = unwrap(
      await fitRegression(await data.asked(engine), linearSettings.parse({}), { categories: [] }),
    );
    for (const [name, estimate] of Object.entries(reference.coefficients)) {
      const row = model.coefficients.find(
        (coefficient) => coefficient.term === (name === "(Intercept)" ? "intercept" : name),
      )!;
      expect(relative(row.estimate, estimate)).toBeLessThan(1e-6);
      expect(relative(row.error!, reference.standard_errors[name]!)).toBeLessThan(1e-6);
      expect(relative(row.ratio!, reference.t_values[name]!)).toBeLessThan(1e-6);
      expect(relative(row.p!, reference.p_values[name]!)).toBeLessThan(1e-6);
    }
    expect(relative(model.fit.rSquared, reference.r_squared)).toBeLessThan(1e-6);
    expect(relative(model.fit.residualError, reference.residual_standard_error)).toBeLessThan(1e-6);
    data.rows.forEach((row, index) =>
      expect(relative(predict(model, row)[0]!, reference.predictions[index]!)).toBeLessThan(1e-6),
    );
  });

  test("ridge: coefficients per deviation and predictions to 1e-8; the elastic net with no lasso is the same", async () => {
    const reference = read<{
      lambda: number;
      coefficients_standardised: Record<string, number>;
      intercept: number;
      predictions: number[];
    }>("swiss.ridge.json");
    const data = await study("swiss", "Fertility", { kind: "number" });
    const { model } = unwrap(
      await fitRegression(await data.asked(engine), linearSettings.parse({ ridge: reference.lambda }), {
        categories: [],
      }),
    );
    for (const [name, value] of Object.entries(reference.coefficients_standardised))
      expect(
        relative(model.coefficients.find((coefficient) => coefficient.term === name)!.perDeviation, value),
      ).toBeLessThan(1e-8);
    data.rows.forEach((row, index) =>
      expect(relative(predict(model, row)[0]!, reference.predictions[index]!)).toBeLessThan(1e-8),
    );
    const net = unwrap(
      await fitRegression(
        await data.asked(engine),
        linearSettings.parse({ ridge: reference.lambda, lasso: 1e-12 }),
        { categories: [] },
      ),
    ).model;
    net.coefficients.forEach((coefficient, index) =>
      expect(Math.abs(coefficient.perDeviation - model.coefficients[index]!.perDeviation)).toBeLessThan(1e-8),
    );
  });

  test("multinomial regression with a ridge on every class: coefficients, probabilities and objective to 1e-8", async () => {
    const reference = read<{
      penalty: number;
      columns: string[];
      intercepts: number[];
      coefficients: number[][];
      value: number;
      probabilities: number[][];
    }>("iris.multinomial-symmetric.json");
    const data = await study("iris", "Species", IRIS);
    // There the penalty falls on the sum of losses, here on their mean.
    const { model } = unwrap(
      await fitMultinomial(
        await data.asked(engine),
        logisticSettings.parse({ ridge: reference.penalty / data.rows.length, tolerance: 1e-11 }),
        { categories: [] },
      ),
    );
    reference.coefficients.forEach((line, code) =>
      line.forEach((value, index) => {
        const row = model.coefficients.find(
          (coefficient) =>
            coefficient.term === reference.columns[index] && coefficient.class === IRIS.classes[code],
        )!;
        expect(Math.abs(row.perDeviation - value)).toBeLessThan(1e-8);
      }),
    );
    data.rows.forEach((row, index) =>
      predict(model, row).forEach((value, code) =>
        expect(Math.abs(value - reference.probabilities[index]![code]!)).toBeLessThan(1e-8),
      ),
    );
    expect(Math.abs(model.fit.meanLoss! * data.rows.length - reference.value)).toBeLessThan(1e-8);
  });

  test("Gaussian naive Bayes: means, deviations and probabilities to 1e-9", async () => {
    const reference = read<{
      tables: Record<string, Record<string, { mean: number; sd: number }>>;
      probabilities: number[][];
    }>("iris.naive-bayes.json");
    const data = await study("iris", "Species", IRIS);
    const { model } = unwrap(
      await fitBayes(await data.asked(engine), bayesSettings.parse({}), { categories: [] }),
    );
    for (const normal of model.normals)
      normal.means.forEach((mean, code) => {
        expect(relative(mean, reference.tables[normal.column]![String(code + 1)]!.mean)).toBeLessThan(1e-9);
        expect(
          relative(normal.deviations[code]!, reference.tables[normal.column]![String(code + 1)]!.sd),
        ).toBeLessThan(1e-9);
      });
    data.rows.forEach((row, index) =>
      predict(model, row).forEach((value, code) =>
        expect(Math.abs(value - reference.probabilities[index]![code]!)).toBeLessThan(1e-9),
      ),
    );
  });

  test("categorical naive Bayes with add-one smoothing: probabilities to 1e-9", async () => {
    const reference = read<{ cases: readonly (Record<string, string> & { Male: number; Female: number })[] }>(
      "hair-eye.naive-bayes.json",
    );
    const data = await study("hair-eye", "Sex", { kind: "classes", classes: ["Male", "Female"] });
    const { model } = unwrap(
      await fitBayes(await data.asked(engine), bayesSettings.parse({ smoothing: 1 }), {
        categories: data.categories,
      }),
    );
    expect(reference.cases.length).toBeGreaterThan(10);
    for (const oneCase of reference.cases) {
      const [male, female] = predict(model, { Hair: oneCase["Hair"]!, Eye: oneCase["Eye"]! });
      expect(Math.abs(male! - oneCase.Male)).toBeLessThan(1e-9);
      expect(Math.abs(female! - oneCase.Female)).toBeLessThan(1e-9);
    }
  });
});

test("nearest neighbours, leave-one-out: votes are those of the reference, but for rows with ties", async () => {
  const reference = read<{ ties: number[]; votes: number[][] }>("iris.knn.json");
  const data = await study("iris", "Species", IRIS);
  const { model } = unwrap(
    await fitNeighbours(await data.asked("streaming"), neighbourSettings.parse({ k: 5 }), { categories: [] }),
  );
  const without = <T>(values: readonly T[], place: number): T[] =>
    values.filter((_, index) => index !== place);
  data.rows.forEach((row, place) => {
    if (reference.ties.includes(place + 1)) return;
    // Rows are kept in the order of their random numbers, which here is that of the file.
    const left = {
      ...model,
      answers: without(model.answers, place),
      numbers: model.numbers.map((number) => ({ ...number, values: without(number.values, place) })),
    };
    expect(predict(left, row).map((value) => Math.round(value * 5) / 5)).toEqual(reference.votes[place]);
  });
});
