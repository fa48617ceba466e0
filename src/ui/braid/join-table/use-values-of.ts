"use client";
import { useEffect, useRef, useState } from "react";
import { addStrand } from "@/core/pipeline/edit/parts";
import { postJson } from "../../basic/fetch-json";
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
  const text = useRef(surveyed);
  text.current = surveyed;
  const [found, setFound] = useState<FoundValues & { readonly column: string }>();
  useEffect(() => {
    setFound(undefined);
    if (column === undefined || table === "") return undefined;
    const strand = `values of ${table}`;
    const extended = addStrand(text.current, { name: strand, from: table });
    if (!extended.ok) return undefined;
    const stop = new AbortController();
    postJson<readonly { readonly value: string }[]>(
      "/api/draft/values",
      { text: extended.value, strand, after: 0, column },
      stop.signal,
    ).then(
      (values) => setFound({ column, values: values.map(({ value }) => value).toSorted() }),
      (error: unknown) => {
        const failure = error instanceof Error ? error.message : String(error);
        if (!stop.signal.aborted) setFound({ column, values: [], failure });
      },
    );
    return () => stop.abort();
  }, [table, column]);
  return found?.column === column ? found : undefined;
}
