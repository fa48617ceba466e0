import fc from "fast-check";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  double,
  integer,
  isNull,
  text,
  truth,
  when,
  type Expression,
} from "@/core/expression/ast";
import { pageQuestion } from "@/core/questions/page";
import { project, table, type Relation } from "@/core/relation/relation";
import { ConditionError } from "../interpreter/failure";
import { InterpreterEngine } from "../interpreter/interpreter-engine";
import { TEST_NOW } from "../test-time";
import { differences } from "./differences";
import type { GoldenEngine } from "./engine";
import { goldenTables } from "./kept";
import { openPostgres, type PostgresEngine } from "./postgres-engine";

/**
 * Random expressions over the table of edge values: what the printed SQL gives in PostgreSQL has to be what the
 * interpreter computes.
 */
const RUN_TIME = TEST_NOW.toISOString();
const EDGES = { schema: "Ort A", table: "edges" };
const COLUMNS = ["Nr", "d", "d2", "n", "b", "t", "t2", "m", "ja"];

let engine: GoldenEngine & PostgresEngine;
const interpreter = new InterpreterEngine(RUN_TIME);
beforeAll(async () => {
  engine = await openPostgres();
  for (const edges of goldenTables()) {
    interpreter.load(edges);
    if (edges.table === EDGES.table) await engine.load(edges);
  }
});
afterAll(() => engine.close());

const columnOf = (...names: readonly string[]): fc.Arbitrary<Expression> =>
  fc.constantFrom(...names.map((name) => column(name)));
const calls = (
  names: readonly string[],
  ...args: readonly fc.Arbitrary<Expression>[]
): fc.Arbitrary<Expression> =>
  fc
    .tuple(fc.constantFrom(...names), ...args)
    .map(([name, ...parts]) => call(name, ...(parts as readonly Expression[])));
const operations = (
  operators: readonly ("+" | "-" | "*" | "=" | "<" | "<=" | "<>" | "and" | "or" | "%" | "/")[],
  side: fc.Arbitrary<Expression>,
  other = side,
): fc.Arbitrary<Expression> =>
  fc
    .tuple(side, fc.constantFrom(...operators), other)
    .map(([left, operator, right]) => binary(left, operator, right));

const { number, whole, exact, words, condition } = fc.letrec<
  Readonly<Record<"number" | "whole" | "exact" | "words" | "condition", Expression>>
>((tie) => {
  const choice = (side: fc.Arbitrary<Expression>): fc.Arbitrary<Expression> =>
    fc.tuple(tie("condition"), side, side).map(([test, yes, no]) => when(test, yes, no));
  const numbers = tie("number");
  const wholes = tie("whole");
  const exacts = tie("exact");
  const texts = tie("words");
  const conditions = tie("condition");
  return {
    number: fc.oneof(
      { depthSize: "small" },
      columnOf("d", "d2"),
      fc.constantFrom(0, -1.5, 2.5, 1e15, 1e-7).map(double),
      operations(["+", "-", "*"], numbers),
      calls(["abs", "floor", "ceil", "round", "trunc", "sign"], numbers),
      calls(["greatest", "least", "coalesce", "nullif"], numbers, numbers),
      fc.oneof(wholes, exacts).map(asDouble),
      choice(numbers),
    ),
    whole: fc.oneof(
      { depthSize: "small" },
      columnOf("Nr", "b"),
      fc.constantFrom(0, 1, -7, 2_000_000_000).map(integer),
      operations(["+", "-", "*"], wholes),
      operations(["/", "%"], wholes, fc.constantFrom(3, -4, 7).map(integer)),
      calls(["abs"], wholes),
      calls(["coalesce", "greatest"], wholes, wholes),
      calls(["length"], texts),
      choice(wholes),
    ),
    exact: fc.oneof(
      { depthSize: "small" },
      columnOf("n"),
      fc.constantFrom("0.5", "-2.50", "1000.001").map((value): Expression => cast(text(value), "numeric")),
      operations(["+", "-", "*"], exacts),
      calls(["floor", "ceil", "round", "trunc", "abs", "sign"], exacts),
      operations(
        ["/"],
        exacts,
        fc.constantFrom("0.3", "7").map((value) => cast(text(value), "numeric")),
      ),
    ),
    words: fc.oneof(
      { depthSize: "small" },
      columnOf("t", "t2"),
      fc.constantFrom("", "a", " É ", "😀b").map(text),
      calls(["lower", "upper", "btrim"], texts),
      calls(["concat", "coalesce", "greatest", "least", "nullif"], texts, texts),
      calls(["left", "right"], texts, fc.constantFrom(-1, 0, 2).map(integer)),
      calls(["substr"], texts, fc.constantFrom(-1, 0, 2).map(integer), fc.constantFrom(0, 3).map(integer)),
      calls(["replace"], texts, fc.constantFrom("", "a", "b").map(text), texts),
      fc.oneof(numbers, wholes, exacts, conditions).map((value) => cast(value, "text")),
      choice(texts),
    ),
    condition: fc.oneof(
      { depthSize: "small" },
      columnOf("m", "ja"),
      fc.boolean().map(truth),
      operations(["=", "<", "<=", "<>"], numbers),
      operations(["=", "<", "<=", "<>"], wholes, exacts),
      operations(["=", "<", "<=", "<>"], texts),
      operations(["and", "or"], conditions),
      conditions.map((operand): Expression => ({ kind: "not", operand })),
      fc.oneof(numbers, texts, conditions).map(isNull),
      fc.tuple(numbers, numbers, fc.boolean()).map(([operand, value, negated]): Expression => ({
        kind: "in",
        operand,
        values: [value, double(1.5)],
        negated,
      })),
    ),
  };
});

const relationOf = (expression: Expression): Relation =>
  project(table(EDGES, COLUMNS), [
    { name: "Nr", expression: column("Nr") },
    { name: "value", expression },
  ]);

const FAILS = "fails";

/** Values by row, or that there are none. */
async function orFailure(rows: () => Promise<readonly (readonly (string | null)[])[]>): Promise<unknown> {
  try {
    return (await rows()).toSorted((left, right) => Number(left[0]) - Number(right[0]));
  } catch (error) {
    const { code } = error as { readonly code?: unknown };
    if (error instanceof ConditionError || String(code).startsWith("22")) return FAILS;
    throw error;
  }
}

test.each([
  ["doubles", number],
  ["whole numbers", whole],
  ["exact numbers", exact],
  ["texts", words],
  ["conditions", condition],
] as const)("%s are what the interpreter computes", async (_kind, expressions) => {
  await fc.assert(
    fc.asyncProperty(expressions, async (expression) => {
      const relation = relationOf(expression);
      const question = pageQuestion(relation, "a random expression");
      const printed = await orFailure(async () => (await engine.ask(question, RUN_TIME)).rows);
      const computed = await orFailure(() => Promise.resolve(interpreter.page(relation)));
      // An engine need not compute what does not matter, and may compute what is constant beforehand: errors are
      // cases of their own.
      fc.pre(printed !== FAILS && computed !== FAILS);
      expect(differences(computed, printed)).toEqual([]);
    }),
    { numRuns: 150 },
  );
});
