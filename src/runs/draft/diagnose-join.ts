import {
  allOf,
  asDouble,
  binary,
  call,
  column,
  countRows,
  integer,
  isNotNull,
  type Expression,
} from "@/core/expression/ast";
import { PlanBuilder } from "@/core/plan/build";
import type { CheckedPlan } from "@/core/plan/plan";
import { numbersOf } from "@/core/questions/groups";
import { pageQuestion, type Page } from "@/core/questions/page";
import { aggregateRows, filter, outputColumns, type Relation } from "@/core/relation/relation";
import { joinedPairs } from "@/core/steps/join-columns";
import { unmatchedRows } from "@/core/steps/join";
import { problem, ProblemError } from "@/core/problem";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { relationAt } from "./preview";

/** Rows on one side of a join, and those that match nothing. */
export interface JoinSide {
  readonly name: string;
  readonly rows: number;
  readonly unmatched: number;
  /** Keys of some of them, with how many rows have each. */
  readonly sample: Page;
}

export interface JoinDiagnosis {
  readonly here: JoinSide;
  readonly there: JoinSide;
  /** Keys that several rows of the other strand have, and the most rows one key has. */
  readonly repeated: { readonly keys: number; readonly most: number; readonly sample: Page };
}

const SAMPLE = 12;

/** How well the two sides of a join step fit: unmatched rows of both, and keys that several rows there have. */
export async function diagnoseJoin(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
): Promise<JoinDiagnosis> {
  const step = plan.strands.find((oneStrand) => oneStrand.name === strand)?.steps[after - 1]?.step;
  const settings = step?.settings as
    | {
        readonly do: string;
        readonly with: string;
        readonly on: Readonly<Record<string, string>>;
        readonly where?: string;
      }
    | undefined;
  if (!settings || settings.do !== "join")
    throw new ProblemError(problem("no_join", "This step is not a join.", "Choose a join step."));
  const left = await relationAt(plan, warehouse, strand, after - 1, runTime);
  const right = new PlanBuilder(plan).strand(settings.with);
  const pairs = joinedPairs(settings.on);
  const condition = settings.where === undefined ? undefined : plan.expression(settings.where, settings.with);
  const unmatched = unmatchedRows(settings, left, right, condition);
  // A missing key matches nothing, however often it occurs.
  const complete = filter(right, allOf(pairs.map((pair) => isNotNull(column(pair.right)))));
  const repeated = filter(
    aggregateRows(
      complete,
      pairs.map((pair) => pair.right),
      [{ name: "rows", expression: countRows }],
    ),
    binary(column("rows"), ">", integer(1)),
  );
  const number = (rows: Relation, expression: Expression = countRows): Promise<number> => {
    const { relation, read } = numbersOf(rows, [asDouble(expression)]);
    const question = {
      relation,
      purpose: "fit of a join",
      read: (found: readonly unknown[]) => read(found)[0] ?? 0,
    };
    return warehouse.ask(question, { runTime });
  };
  const sample = (relation: Relation): Promise<Page> => {
    const names = outputColumns(relation);
    const counted = names.includes("rows")
      ? relation
      : aggregateRows(relation, names, [{ name: "rows", expression: countRows }]);
    const order = [
      { expression: column("rows"), descending: true },
      ...names.filter((name) => name !== "rows").map((name) => ({ expression: column(name) })),
    ];
    const question = pageQuestion(counted, "keys of a join", { rows: SAMPLE, order });
    return warehouse.ask(question, { runTime, milliseconds: 20_000 });
  };
  const side = async (name: string, all: Relation, lost: Relation): Promise<JoinSide> => {
    const [rows, missing, keys] = await Promise.all([number(all), number(lost), sample(lost)]);
    return { name, rows, unmatched: missing, sample: keys };
  };
  const [here, there, keys, most, some] = await Promise.all([
    side(strand, left, unmatched.here),
    side(settings.with, right, unmatched.there),
    number(repeated),
    number(repeated, call("max", column("rows"))),
    sample(repeated),
  ]);
  return { here, there, repeated: { keys, most, sample: some } };
}
