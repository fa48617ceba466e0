import { layOut, termName, toOriginal, type Design } from "@/core/learn/linear/design";
import { fitLogistic } from "@/core/learn/logistic-regression/logistic";
import { logisticSettings } from "@/core/learn/logistic-regression/facts";
import { learnedRows } from "@/core/plan/frame";
import { unwrap } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { quoteTable } from "@/warehouse/postgres/dialect/quote";
import { openBench, type Bench } from "../../testing/warehouse";
import { WarehouseFrame } from "./frame-questions";
import type { PostgresSession } from "./postgres/session";

/**
 * The learner's questions, answered by SQL over a frame, against the same sums taken over the rows here, one by one.
 * The frame has a far-off mean, two categories (one of more levels than fit into filtered sums), and rows of
 * both sides.
 */
const ROWS = 900;
const FRAME = { schema: "scratch", table: "frame_x" };
const NUMBERS = ["a", "far off", 'q"uote'];
const SMALL = { column: "small", levels: ["x", "y", null] };
const LARGE = { column: "large", levels: Array.from({ length: 40 }, (_, index) => `l${index}`) };

interface FrameRow {
  readonly part: number;
  readonly draw: number;
  readonly target: number;
  readonly numbers: readonly number[];
  readonly small: number;
  readonly large: number;
}

let bench: Bench;
let session: PostgresSession;
let rows: readonly FrameRow[];

beforeAll(async () => {
  bench = await openBench();
  session = await bench.context.warehouse.session();
  await session.run(
    `CREATE TABLE ${quoteTable(FRAME)} AS SELECT i AS id, (i % 5 = 0)::int::smallint AS ravlen_part, (i * 7919 % 1000) / 1000.0::double precision AS ravlen_draw,
    (sin(i * 1.7) + cos(i * 0.3) > 0.2)::int::double precision AS ravlen_target, sin(i * 0.9) AS a, 1e6 + cos(i * 2.1) AS "far off", (i % 13)::double precision AS "q""uote", 1 + i % 3 AS small, 1 + i * 31 % 40 AS large FROM generate_series(1, ${ROWS}) i`,
    "frame",
  );
  rows = (await session.run(`SELECT * FROM ${quoteTable(FRAME)} ORDER BY id`, "rows")).map((row) => ({
    part: Number(row["ravlen_part"]),
    draw: Number(row["ravlen_draw"]),
    target: Number(row["ravlen_target"]),
    numbers: NUMBERS.map((name) => Number(row[name])),
    small: Number(row["small"]),
    large: Number(row["large"]),
  }));
});
afterAll(async () => {
  session.release();
  await bench.close();
});

const scratch = (table: string): TableReference => ({ schema: "scratch", table });
const frame = (): WarehouseFrame =>
  new WarehouseFrame(session, {
    frame: FRAME,
    sample: scratch("sample_x"),
    states: [scratch("state_x"), scratch("state_y")],
    numbers: NUMBERS,
    categories: [SMALL, LARGE],
    task: { kind: "binary" },
    condition: learnedRows(),
    weighted: false,
    timed: false,
  });
const training = (): readonly FrameRow[] => rows.filter((row) => row.part === 0);

/** One row of the design on the solver's scale. */
function rawTerm(term: Design["terms"][number], row: FrameRow): number {
  if (term.kind === "intercept") return 1;
  if (term.kind === "number") return row.numbers[NUMBERS.indexOf(term.column)]!;
  return Number((term.column === "small" ? row.small : row.large) === term.code);
}

function designRow(design: Design, row: FrameRow): readonly number[] {
  return design.terms.map((term, index) => {
    return (rawTerm(term, row) - design.centres[index]!) / design.spreads[index]!;
  });
}

async function designOf(asked: WarehouseFrame): Promise<Design> {
  const summary = await asked.summary();
  return layOut(
    summary.numbers,
    [SMALL, LARGE].map((category, index) => ({ ...category, rows: summary.categories[index]!.rows })),
    { small: "y" },
  );
}

/** Loss, gradient and Hessian, row by row. */
function byHand(design: Design, coefficients: Float64Array, over: readonly FrameRow[]) {
  const size = design.terms.length;
  const gradient = new Float64Array(size);
  const hessian = Array.from({ length: size }, () => new Float64Array(size));
  let loss = 0;
  for (const row of over) {
    const z = designRow(design, row);
    const eta = z.reduce((sum, value, index) => sum + value * coefficients[index]!, 0);
    const p = 1 / (1 + Math.exp(-eta));
    loss += -Math.log(row.target === 1 ? p : 1 - p);
    z.forEach((left, i) => {
      gradient[i] = gradient[i]! + (p - row.target) * left;
      z.forEach((right, j) => {
        hessian[i]![j] = hessian[i]![j]! + p * (1 - p) * left * right;
      });
    });
  }
  return { loss, gradient, hessian };
}

const near = (actual: number, expected: number, scale: number): void =>
  expect(Math.abs(actual - expected)).toBeLessThan(1e-9 * scale);

test("the summary is that of the training rows", async () => {
  const summary = await frame().summary();
  const own = training();
  expect(summary).toMatchObject({ rows: own.length, unanswered: 0, weight: own.length });
  expect(summary.classes[1]!.rows).toBe(own.filter((row) => row.target === 1).length);
  NUMBERS.forEach((_, index) => {
    const values = own.map((row) => row.numbers[index]!);
    const mean = values.reduce((sum, value) => sum + value, 0) / own.length;
    near(summary.numbers[index]!.mean, mean, Math.abs(mean) + 1);
    near(
      summary.numbers[index]!.deviation,
      Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / own.length),
      1,
    );
  });
  expect(summary.categories[0]!.rows).toEqual(
    [1, 2, 3].map((code) => own.filter((row) => row.small === code).length),
  );
  expect(summary.categories[1]!.sums[7]).toBe(
    own.filter((row) => row.large === 8 && row.target === 1).length,
  );
});

test.each(["all", "sample"] as const)(
  "loss, gradient and curvature over %s rows are the sums taken row by row",
  async (scope) => {
    const asked = frame();
    const design = await designOf(asked);
    expect(design.terms.map(termName)).toContain("small = (missing)");
    const sampled = await asked.drawSample(design, 300, training().length);
    const over =
      scope === "all" ? training() : training().filter((row) => row.draw < 300 / training().length);
    if (scope === "sample") expect(sampled).toBe(over.length);
    const coefficients = Float64Array.from(design.terms, (_, index) => 0.3 * Math.sin(index + 1));
    const expected = byHand(design, coefficients, over);
    const slope = await asked.slope(design, coefficients, "logistic", scope);
    const curvature = await asked.curvature(design, coefficients, "logistic", scope);
    for (const answer of [slope, curvature]) {
      expect(answer.rows).toBe(over.length);
      near(answer.loss, expected.loss, over.length);
      answer.gradient.forEach((value, index) => near(value, expected.gradient[index]!, over.length));
    }
    expected.hessian.forEach((row, i) =>
      row.forEach((value, j) => near(curvature.hessian[i]![j]!, value, over.length)),
    );
  },
);

test("certain predictions neither overflow nor lose the loss", async () => {
  const asked = frame();
  const design = await designOf(asked);
  for (const size of [800, -800]) {
    const coefficients = new Float64Array(design.terms.length);
    coefficients[0] = size;
    const wrong = training().filter((row) => (row.target === 1) !== size > 0).length;
    const { loss, gradient } = await asked.slope(design, coefficients, "logistic", "all");
    near(loss, wrong * 800, wrong * 800);
    expect(gradient[0]).toBe(Math.sign(size) * wrong);
  }
});

test("at the solution the gradient vanishes, from either path, and both paths agree", async () => {
  const settings = logisticSettings.parse({ ridge: 0.001, tolerance: 1e-11, sample_rows: 100_000 });
  const whole = unwrap(await fitLogistic(frame(), settings, { categories: [SMALL, LARGE] })).model;
  const sampled = unwrap(
    await fitLogistic(frame(), { ...settings, sample_rows: 400 }, { categories: [SMALL, LARGE] }),
  ).model;
  expect(sampled.fit.passes.some((pass) => pass.scope === "sample")).toBe(true);
  sampled.coefficients.forEach((coefficient, index) =>
    near(coefficient.perDeviation, whole.coefficients[index]!.perDeviation, 1),
  );
  sampled.coefficients.forEach((coefficient, index) =>
    expect(Math.abs(coefficient.error! / whole.coefficients[index]!.error! - 1)).toBeLessThan(1e-6),
  );
  const asked = frame();
  const summary = await asked.summary();
  const design = layOut(
    summary.numbers,
    [SMALL, LARGE].map((category, index) => ({ ...category, rows: summary.categories[index]!.rows })),
    {},
  );
  const scaled = Float64Array.from(whole.coefficients, (coefficient) => coefficient.perDeviation);
  const { gradient } = byHand(design, scaled, training());
  gradient.forEach((value, index) =>
    near(
      (value + (index === 0 ? 0 : settings.ridge * training().length * scaled[index]!)) / training().length,
      0,
      10,
    ),
  );
  near(toOriginal(design, scaled)[0]!, whole.intercept, Math.abs(whole.intercept));
});
