import { formatNumber } from "@/core/format/numbers";
import { allOf, call, cast, column, isNotNull } from "@/core/expression/ast";
import type { CheckedPlan } from "@/core/plan/plan";
import { pageQuestion } from "@/core/questions/page";
import { rowCountQuestion } from "@/core/questions/row-count";
import { distinctTextsQuestion, textCountsQuestion } from "@/core/questions/texts";
import { filter, keepColumns, project } from "@/core/relation/relation";
import { problem, ProblemError } from "@/core/problem";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { relationAt } from "./preview";

/** Most values that may become columns or entries of a form. */
export const MOST_VALUES = 500;

/** The values of a column after some steps, the most frequent first. More than {@link MOST_VALUES} are refused with their number. */
export async function valuesOf(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
  name: string,
): Promise<readonly { readonly value: string; readonly rows: number }[]> {
  const relation = await relationAt(plan, warehouse, strand, after, runTime);
  const texts = filter(
    project(relation, [{ name: "value", expression: cast(column(name), "text") }]),
    isNotNull(column("value")),
  );
  const distinct = await warehouse.ask(distinctTextsQuestion(texts, "value"), { runTime });
  if (distinct > MOST_VALUES)
    throw new ProblemError(
      problem(
        "too_many_values",
        `"${name}" has ${formatNumber(distinct)} different values; at most ${MOST_VALUES} can be used.`,
        "Group the rare ones in an earlier step, or choose another column.",
      ),
    );
  return warehouse.ask(textCountsQuestion(texts, "value", MOST_VALUES), { runTime });
}

export interface Points {
  /** x, y, and the value of the colouring column. */
  readonly points: readonly (readonly [number, number, string | null])[];
  /** Rows in which both coordinates are there. */
  readonly total: number;
}

const MOST_POINTS = 3000;

/** Points of a scatter of two columns after some steps: all of them, or a sample spread by a hash. */
export async function pointsOf(
  plan: CheckedPlan,
  warehouse: Warehouse,
  strand: string,
  after: number,
  runTime: string,
  wanted: { readonly x: string; readonly y: string; readonly colour?: string | undefined },
): Promise<Points> {
  const names = [...new Set([wanted.x, wanted.y, ...(wanted.colour === undefined ? [] : [wanted.colour])])];
  const rows = keepColumns(
    filter(
      await relationAt(plan, warehouse, strand, after, runTime),
      allOf([isNotNull(column(wanted.x)), isNotNull(column(wanted.y))]),
    ),
    names,
  );
  const total = await warehouse.ask(rowCountQuestion(rows, "points"), { runTime });
  const hash = call("md5", call("concat", ...names.map((name) => column(name))));
  const page = await warehouse.ask(
    pageQuestion(rows, "points of two columns", { rows: MOST_POINTS, order: [{ expression: hash }] }),
    { runTime, milliseconds: 20_000 },
  );
  const place = (name: string): number => names.indexOf(name);
  const { colour } = wanted;
  return {
    total,
    points: page.rows
      .map(
        (row) =>
          [
            Number(row[place(wanted.x)]),
            Number(row[place(wanted.y)]),
            colour === undefined ? null : (row[place(colour)] ?? null),
          ] as const,
      )
      .filter(([x, y]) => Number.isFinite(x) && Number.isFinite(y)),
  };
}
