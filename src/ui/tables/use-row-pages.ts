"use client";
import { useQueries } from "@tanstack/react-query";
import { fetchJson } from "../queries/fetch-json";

/** Rows that are fetched at a time. */
export const PAGE = 100;
/** A page that was scrolled away stays for so long. */
const KEPT_MILLISECONDS = 60_000;

export interface RowOrder {
  readonly column: string;
  readonly descending: boolean;
}

/** Rows of a page: texts in the order of the columns, null where a value is missing. */
export type Rows = readonly (readonly (string | null)[])[];

export interface RowPages {
  /** Rows by the number of their page, of those that are there. */
  readonly pages: ReadonlyMap<number, Rows>;
  readonly failure: string | undefined;
}

/**
 * Pages of rows that stay on the server.
 * @param source URL to which offset, limit, order and descending are added
 * @param order how the rows are sorted
 * @param span numbers of the first and the last page in view
 */
export function useRowPages(
  source: string,
  order: RowOrder | undefined,
  { first, last }: { readonly first: number; readonly last: number },
): RowPages {
  const numbers = Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => first + index);
  const sort = order ? `&order=${encodeURIComponent(order.column)}&descending=${order.descending}` : "";
  const found = useQueries({
    queries: numbers.map((page) => ({
      queryKey: ["rows", source, sort, page],
      queryFn: ({ signal }: { readonly signal: AbortSignal }) =>
        fetchJson<{ readonly rows: Rows }>(
          `${source}${source.includes("?") ? "&" : "?"}offset=${page * PAGE}&limit=${PAGE}${sort}`,
          { signal },
        ),
      gcTime: KEPT_MILLISECONDS,
    })),
  });
  return {
    pages: new Map(
      numbers.flatMap((page, index) => {
        const rows = found[index]?.data?.rows;
        return rows ? [[page, rows] as const] : [];
      }),
    ),
    failure: found.find(({ error }) => error)?.error?.message,
  };
}
