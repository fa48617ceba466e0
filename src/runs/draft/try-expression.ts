import { hidden } from "@/core/names/hidden";
import { checkExpression } from "@/core/expression/check";
import type { Expression } from "@/core/expression/ast";
import { parseExpression } from "@/core/expression/parse";
import { fromOtherSide } from "@/core/expression/sides";
import { columnsOf } from "@/core/expression/visit";
import type { CheckedPlan } from "@/core/plan/plan";
import type { Problem } from "@/core/problem";
import { pageQuestion, type Page } from "@/core/questions/page";
import { aggregateRows, project } from "@/core/relation/relation";
import { otherSide } from "@/core/expression/sides";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { relationAt } from "./preview";

/** What an expression gives, tried while it is written. */
export interface Tried {
  readonly type?: string;
  readonly problems: readonly Problem[];
  /** The columns it reads and its value, for a few rows. Absent when it is wrong, or needs rows of two strands. */
  readonly sample?: Page;
}

const ROWS = 6;
const RESULT = hidden("result");
/** An expression that takes longer on a few rows is not worth waiting for while typing. */
const WAIT_MILLISECONDS = 4000;

/**
 * Checks an expression against the columns at a place and computes it on a few rows. Nothing of the text reaches the
 * warehouse but what the parser understood and the printer wrote again.
 */
export async function tryExpression(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
  wanted: {
    readonly expression: string;
    readonly kind: "value" | "aggregate";
    readonly by: readonly string[];
    readonly other?: string | undefined;
  },
): Promise<Tried> {
  const parsed = parseExpression(wanted.expression, wanted.other);
  if (!parsed.ok) return { problems: parsed.problems };
  const found = plan.strands.find((oneStrand) => oneStrand.name === strand);
  const here = after === 0 ? found?.start : found?.steps[after - 1]?.shape.output;
  const there = plan.strands.find((strand) => strand.name === wanted.other)?.output;
  const columns = new Map(
    [...(here ?? []), ...[...(there ?? [])].map(([name, state]) => [otherSide(name), state] as const)].filter(
      ([, state]) => !state.bundle,
    ),
  );
  const checked = checkExpression(parsed.value, {
    columns,
    aggregates: wanted.kind === "aggregate" ? "required" : "forbidden",
  });
  if (!checked.ok) return { problems: checked.problems };
  const read = columnsOf(parsed.value);
  const { type } = checked.value;
  if (read.some((name) => fromOtherSide(name) !== undefined)) return { type, problems: [] };
  const relation = await relationAt(plan, warehouse, strand, after, runTime);
  const item = { name: RESULT, expression: parsed.value };
  const by = wanted.by.filter((name) => columns.has(name));
  const shown =
    wanted.kind === "aggregate"
      ? aggregateRows(relation, by, [item])
      : project(relation, [
          ...read.map((name) => ({ name, expression: { kind: "column", name } satisfies Expression })),
          item,
        ]);
  const sample = await warehouse.ask(pageQuestion(shown, "an expression on a few rows", { rows: ROWS }), {
    runTime,
    milliseconds: WAIT_MILLISECONDS,
  });
  return {
    type,
    problems: [],
    sample: { columns: sample.columns.map((name) => (name === RESULT ? "result" : name)), rows: sample.rows },
  };
}
