"use client";
import { useQuery } from "@tanstack/react-query";
import type { SeenAmong, SeenImport } from "@/server/import-request";
import { fetchJson } from "../queries/fetch-json";

const POLL_MILLISECONDS = 500;

const isBusy = ({ state }: Pick<SeenImport, "state">): boolean => state === "looking" || state === "loading";

/** An import, asked for again and again while it is worked on. */
export function useImport(
  id: string,
  first: SeenImport,
): { readonly row: SeenImport; readonly refresh: () => void } {
  const { data, refetch } = useQuery<SeenImport>({
    queryKey: ["import", id],
    queryFn: ({ signal }) => fetchJson<SeenImport>(`/api/imports/${id}`, { signal }),
    initialData: first,
    refetchInterval: ({ state }) => (!state.data || isBusy(state.data) ? POLL_MILLISECONDS : false),
  });
  return { row: data ?? first, refresh: () => void refetch() };
}

/** Several imports, asked for again and again while any is worked on. */
export function useImports(first: readonly SeenAmong[]): {
  readonly rows: readonly SeenAmong[];
  readonly refresh: () => void;
} {
  const ids = first.map(({ id }) => id).join(",");
  const { data, refetch } = useQuery<readonly SeenAmong[]>({
    queryKey: ["imports", ids],
    queryFn: ({ signal }) => fetchJson<readonly SeenAmong[]>(`/api/imports?ids=${ids}`, { signal }),
    initialData: first,
    refetchInterval: ({ state }) => (!state.data || state.data.some(isBusy) ? POLL_MILLISECONDS : false),
  });
  return { rows: data ?? first, refresh: () => void refetch() };
}
