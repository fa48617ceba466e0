import type { GoldenEngine } from "./engine";
import { describeExpressions } from "./expressions";
import { describeJudging } from "./judging";
import { goldenTables } from "./kept";
import { describeLearners } from "./learners";
import { openPostgres } from "./postgres-engine";
import { describeOperating } from "./operating";
import { describeProfiles } from "./profiles";
import { describeSteps } from "./steps";

let engine: GoldenEngine;
beforeAll(async () => {
  engine = await openPostgres();
  for (const table of goldenTables()) await engine.load(table);
});
afterAll(() => engine.close());

describeSteps(() => engine);
describeExpressions(() => engine);
describeLearners(() => engine);
describeProfiles(() => engine);
describeJudging(() => engine);
describeOperating(() => engine);
