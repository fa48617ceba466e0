import { cast, column, double, NULL, text, type Expression } from "@/core/expression/ast";
import type { Model } from "@/core/learn/model";
import { columnsRead } from "@/core/learn/model-kinds";
import { scoringProgram } from "@/core/learn/scoring";
import type { FeatureRow } from "@/core/learn/task";
import { project, withColumns, type Relation } from "@/core/relation/relation";
import { TEST_NOW } from "../test-time";
import { Interpreter } from "./relations";

const noTables = (): never => {
  throw new Error("a row of its own reads no table");
};

function valueOf(value: FeatureRow[string] | undefined, type: "double precision" | "text"): Expression {
  if (value === null || value === undefined) return cast(NULL, type);
  return type === "text" ? text(String(value)) : double(Number(value));
}

/** What a model's program of expressions predicts for a row. */
export function programPrediction(model: Model, row: FeatureRow): readonly (number | null)[] {
  const { numbers, categories } = columnsRead(model);
  const values: readonly (readonly [string, Expression])[] = [
    ...[...numbers].map((name) => [name, valueOf(row[name], "double precision")] as const),
    ...[...categories].map((name) => [name, valueOf(row[name], "text")] as const),
  ];
  const given: Relation = {
    kind: "constants",
    name: "given row",
    columns: values.map(([name]) => name),
    rows: [values.map(([, value]) => value)],
  };
  const { stages, outputs } = scoringProgram(model, column);
  const staged = stages.reduce<Relation>((relation, stage) => withColumns(relation, stage), given);
  const predicted = project(
    staged,
    outputs.map((expression, index) => ({ name: `output ${index}`, expression })),
  );
  const interpreter = new Interpreter({ table: noTables, runTime: TEST_NOW.toISOString() });
  return interpreter.rowsOf(predicted).rows[0] as readonly (number | null)[];
}
