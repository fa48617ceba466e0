import { loadGrammar } from "@/core/expression/parse";
import type { GoldenEngine } from "../golden/engine";
import { describeExpressions } from "../golden/expressions";
import { goldenTables } from "../golden/kept";
import { describeSteps } from "../golden/steps";
import { TEST_NOW } from "../test-time";
import { InterpreterEngine } from "./interpreter-engine";

/** The interpreter has to come to the same rows as the warehouse did when the golden answers were kept. */
const interpreter = new InterpreterEngine(TEST_NOW.toISOString());
for (const table of goldenTables()) interpreter.load(table);

const unsupported = (): never => {
  throw new Error("the interpreter computes rows only");
};
const engine: GoldenEngine = {
  load: (table) => Promise.resolve(interpreter.load(table)),
  rowsAfter: (file) => Promise.resolve(interpreter.rowsAfter(file)),
  aboutTable: unsupported,
  aboutVersion: unsupported,
  train: unsupported,
  operate: unsupported,
  close: () => Promise.resolve(),
};

beforeAll(() => loadGrammar());

describeExpressions(() => engine);
describeSteps(() => engine);
