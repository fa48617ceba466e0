import { readFileSync } from "node:fs";
import { applicationEngine } from "../testing/golden/application-engine";
import { asKept, differences, OF_ITERATIONS } from "../testing/golden/differences";
import type { GoldenEngine, GoldenTable } from "../testing/golden/engine";
import { openPostgres } from "../testing/golden/postgres-engine";
import { InterpreterWarehouse } from "../testing/interpreter/interpreter-warehouse";
import { openBenchOf } from "../testing/warehouse";
import { DEMO_SCHEMA, DEMO_SEED } from "./load";
import { TABLES, type Cell, type GeneratedTable } from "./tables";
import { DEMO_NOW, makeWorld } from "./world";

/** The demo's pipelines over a few hundred rows come out the same in PostgreSQL and in the interpreter. */
const SCALE = 0.025;
const MOST_ROWS = 1500;

function textOf(value: Cell): string | null {
  if (value === null) return null;
  return value instanceof Date ? value.toISOString() : String(value);
}

/** A part of the rows of a demo table, from its beginning to its end. */
function someOf(table: GeneratedTable): GoldenTable {
  const rows = [...table.rows(DEMO_SEED, SCALE, makeWorld(DEMO_SEED, SCALE))];
  const step = Math.ceil(rows.length / MOST_ROWS);
  return {
    schema: DEMO_SCHEMA,
    table: table.name,
    columns: table.columns.map(([name, definition]) => ({
      name,
      type: definition.replace(/ (NOT NULL|PRIMARY KEY)$/, ""),
      notNull: / (NOT NULL|PRIMARY KEY)$/.test(definition),
    })),
    rows: rows.filter((_row, index) => index % step === 0).map((row) => row.map(textOf)),
  };
}

let engines: readonly GoldenEngine[];
beforeAll(async () => {
  const bench = await openBenchOf((config) => new InterpreterWarehouse(config));
  const interpreter = applicationEngine(
    bench,
    (table) => Promise.resolve(bench.context.warehouse.load(table)),
    () => undefined,
  );
  engines = [await openPostgres(), interpreter];
  const tables = TABLES.map(someOf);
  for (const engine of engines) for (const table of tables) await engine.load(table);
});
afterAll(() => Promise.all(engines.map((engine) => engine.close())));

/** Pairs are kept, and rows are drawn for intervals, in the order in which rows come, which no warehouse promises. */
const ordered = (answer: unknown): unknown =>
  JSON.parse(JSON.stringify(answer), (name, value: unknown) =>
    name === "pairs" || name === "intervals" ? undefined : value,
  );

const onBoth = <Answer>(ask: (engine: GoldenEngine) => Promise<Answer>): Promise<readonly Answer[]> =>
  Promise.all(engines.map(ask));

test.each(["hours-until-collection", "arrivals-by-site-day", "latch-wear"])(
  "%s is prepared, trained and evaluated alike",
  async (name) => {
    const file = readFileSync(`demo/${name}.yaml`, "utf8");
    const [kept, found] = await onBoth((engine) => engine.train(file));
    expect(kept).toMatchObject({ ok: true });
    expect(differences(ordered(found), ordered(kept), OF_ITERATIONS)).toEqual([]);
  },
);

test.each(["uncollected-72h", "message-topic"])("%s is trained, scored and delivered alike", async (name) => {
  const file = readFileSync(`demo/${name}.yaml`, "utf8");
  const [kept, found] = await onBoth((engine) => engine.operate(file, [DEMO_NOW.toISOString()]));
  expect(kept!.runs).toMatchObject([{ state: "done" }]);
  expect(differences(asKept(found), asKept(kept), OF_ITERATIONS)).toEqual([]);
});
