import type { ParsedPipeline } from "../pipeline/parse";
import type { Delivery } from "../pipeline/operating-schema";

/** Rows that are scored once, because somebody wants to know. */
export interface OnDemand {
  /** The table with the rows, as schema.table: it stands in for the source of the main strand. */
  readonly table: string;
  /** The table that is made of their predictions. */
  readonly into: string;
  /** Columns that are passed through beside the key. */
  readonly columns: readonly string[];
}

/** The delivery of rows that are scored on demand: a table of their own, and a contract that only warns. */
export function onDemandDelivery({ into, columns }: OnDemand, threshold: number): Delivery {
  return {
    name: `on demand: ${into}`,
    table: into,
    mode: "replace",
    rows: "all",
    reasons: 0,
    hand_over: [],
    routes: [],
    columns: [...columns],
    threshold,
    contract: { otherwise: "warn", most_missing_increase: 0.2, most_unseen: 0.2, most_worse: 0.1 },
  };
}

/** A pipeline whose main strand begins with other rows, all of which are scored. The steps, and what they learned, are the same. */
export function onDemandPipeline(parsed: ParsedPipeline, wanted: OnDemand): ParsedPipeline {
  const { file } = parsed;
  return {
    ...parsed,
    file: {
      ...file,
      rows: { ...file.rows, score: "true" },
      delivery: [onDemandDelivery(wanted, file.delivery[0]?.threshold ?? 0.5)],
      schedules: [],
      strands: file.strands.map((each) =>
        each.name === file.rows.from ? { ...each, from: wanted.table } : each,
      ),
    },
  };
}
