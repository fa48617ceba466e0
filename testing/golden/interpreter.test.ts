import { InterpreterWarehouse } from "../interpreter/interpreter-warehouse";
import { ConditionError } from "../interpreter/failure";
import { openBenchOf } from "../warehouse";
import { applicationEngine } from "./application-engine";
import type { GoldenEngine } from "./engine";
import { describeJudging } from "./judging";
import { goldenTables } from "./kept";
import { describeLearners } from "./learners";
import { describeOperating } from "./operating";
import { describeProfiles } from "./profiles";

/** The application with the interpreter as its warehouse: trainings, evaluations and deliveries come out the same. */
let engine: GoldenEngine;
beforeAll(async () => {
  const bench = await openBenchOf((config) => new InterpreterWarehouse(config));
  const { warehouse } = bench.context;
  engine = applicationEngine(
    bench,
    (table) => Promise.resolve(warehouse.load(table)),
    (error) => (error instanceof ConditionError ? error.condition : undefined),
  );
  for (const table of goldenTables()) await engine.load(table);
});
afterAll(() => engine.close());

describeLearners(() => engine);
describeJudging(() => engine);
describeOperating(() => engine);
describeProfiles(() => engine);
