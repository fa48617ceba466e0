import { hidden } from "@/core/names/hidden";

/**
 * A further column of a sub-select that makes PostgreSQL compute the others once a row, whatever reads them above.
 *
 * The planner merges a sub-select into the query around it, and then repeats its expressions wherever they are read
 * (a predictor of twenty terms, once for each of twenty sums), unless it holds a volatile function. This one is
 * volatile in name only, costs nothing, and may run in parallel workers; OFFSET 0 would also keep the sub-select
 * apart, but keeps PostgreSQL 15 from aggregating in parallel above it.
 */
export const FENCE = `pg_is_in_recovery() AS "${hidden("fence")}"`;
