"use client";
import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import type { ColumnProfile } from "@/core/evaluate/table-profile";
import { parseTableName } from "@/core/pipeline/table-name";
import { fetchJson } from "../queries/fetch-json";
import type { KeptProfile } from "./use-profile";

/** The profile of a column, where its table has been profiled. */
export type ProfileOf = (table: string, column: string) => ColumnProfile | undefined;

/**
 * Profiles of columns as they are kept; none is taken for it.
 *
 * @param tables names of tables; others, such as strands, are passed over
 */
export function useColumnProfiles(tables: readonly string[]): ProfileOf {
  const known = tables.flatMap((name) => {
    const reference = parseTableName(name);
    return reference ? [{ name, query: new URLSearchParams({ ...reference }).toString() }] : [];
  });
  const kept = useQueries({
    queries: known.map(({ query }) => ({
      queryKey: ["profile", query],
      queryFn: ({ signal }: { readonly signal: AbortSignal }) =>
        fetchJson<KeptProfile>(`/api/tables/profile?${query}`, { signal }),
      staleTime: 60_000,
      retry: false,
    })),
    combine: (answers) => answers.map(({ data }) => data),
  });
  const key = known.map(({ name }) => name).join("\n");
  return useMemo(() => {
    const columns = new Map(
      key
        .split("\n")
        .flatMap((name, place) =>
          (kept[place]?.profile?.columns ?? []).map(
            (column) => [`${name}\n${column.column}`, column] as const,
          ),
        ),
    );
    return (table, column) => columns.get(`${table}\n${column}`);
  }, [key, kept]);
}
