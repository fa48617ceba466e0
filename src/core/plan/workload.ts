import { fitCount } from "../learn/search/space";
import type { Candidate } from "../pipeline/schema";
import type { TableReference } from "../relation/relation";
import { sourcesOf } from "./frame";
import type { CheckedPlan } from "./plan";

/** How much a run has to do, estimated before it begins. */
export interface Workload {
  /** Rows of the table that the main strand begins with. */
  readonly rows: number;
  /** Columns that are read, of all tables. */
  readonly columns: number;
  /** Values that are looked at: rows times columns of every table, and of training rows once for every fit. */
  readonly cells: number;
  /** Whether it may go past the large runs that wait. */
  readonly small: boolean;
}

/** Values up to which a run is small. Scoring looks at a value once, training many times. */
const MOST_CELLS = { train: 5_000_000, score: 20_000_000 } as const;

/** The table that a strand's rows come from. */
function rootOf(plan: CheckedPlan, strand = plan.main): TableReference {
  const { from } = strand;
  if (from.kind === "table") return from.source;
  return rootOf(
    plan,
    plan.strands.find((strand) => strand.name === from.name)!,
  );
}

interface Sized {
  readonly kind: "train" | "score";
  readonly plan: CheckedPlan;
  /** Estimated rows of a table. */
  readonly rowsOf: (table: TableReference) => number;
}

/**
 * What a run has to do, by the rows and columns of the tables it reads.
 * @param run.candidate what is trained; its folds and trials count as often as they are fitted
 * @param run.share of the training rows that is learned from
 */
export function workloadOf(
  sized: Sized,
  run: { readonly candidate?: Candidate | undefined; readonly share?: number | undefined } = {},
): Workload {
  const { plan, kind, rowsOf } = sized;
  const sources = sourcesOf(plan);
  const rows = rowsOf(rootOf(plan));
  const read = sources.reduce((sum, source) => sum + rowsOf(source) * source.columns.length, 0);
  const fits = kind === "train" && run.candidate ? fitCount(run.candidate, plan.file).fits : 0;
  const cells = (read + rows * plan.features.length * fits) * (run.share ?? 1);
  return {
    rows: Math.round(rows),
    columns: sources.reduce((sum, source) => sum + source.columns.length, 0),
    cells: Math.round(cells),
    small: cells <= MOST_CELLS[kind],
  };
}
