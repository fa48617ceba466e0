"use client";
import { useQuery } from "@tanstack/react-query";
import { fetchJson } from "./fetch-json";
import { answerOf, type Answer } from "./answer";

/** Reads from a URL whenever it changes; undefined asks nothing. */
export function useRead<T>(url: string | undefined): Answer<T> {
  const query = useQuery<T>({
    queryKey: ["read", url],
    queryFn: ({ signal }) => fetchJson<T>(url ?? "", { signal }),
    enabled: url !== undefined,
  });
  return answerOf(query, url !== undefined);
}
