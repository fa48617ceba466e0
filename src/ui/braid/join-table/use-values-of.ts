"use client";
import { useMemo, useState } from "react";
import { addStrand } from "@/core/pipeline/edit/parts";
import { usePosted } from "../../queries/use-posted";
import { useDesk } from "../../draft/draft-context";

/** Values of a column, or why there are none. */
export interface FoundValues {
  readonly values: readonly string[];
  readonly failure?: string;
}

/**
 * The values of a column of a table that is not in the pipeline yet: those of the table, whatever else the
 * draft says.
 */
export function useValuesOf(table: string, column: string | undefined): FoundValues | undefined {
  const { surveyed } = useDesk();
  // The values are the table's: they do not change with the draft.
  const [text] = useState(surveyed);
  const strand = `values of ${table}`;
  const extended =
    column === undefined || table === "" ? undefined : addStrand(text, { name: strand, from: table });
  const { value, failure } = usePosted<readonly { readonly value: string }[]>(
    extended?.ok ? "/api/draft/values" : undefined,
    extended?.ok ? { text: extended.value, strand, after: 0, column } : undefined,
  );
  return useMemo(() => {
    if (failure !== undefined) return { values: [], failure };
    return value && { values: value.map((found) => found.value).toSorted() };
  }, [value, failure]);
}
