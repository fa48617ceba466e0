"use client";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answerOf, settle, type Answer } from "./answer";
import { postJson } from "./fetch-json";

interface Options {
  /** How long the question has to stay as it is before it is asked. */
  readonly pauseMilliseconds?: number;
  /** Whether the answer before stays until the new one comes. */
  readonly keepsLast?: boolean;
}

/**
 * The answer to a question whose body is JSON, asked again whenever that changes.
 * @param url undefined: nothing is asked
 */
export function usePosted<T>(
  url: string | undefined,
  body: unknown,
  { pauseMilliseconds = 0, keepsLast = false }: Options = {},
): Answer<T> {
  const query = useQuery<T>({
    queryKey: ["posted", url, body],
    queryFn: async ({ signal }) => {
      if (pauseMilliseconds > 0) await settle(pauseMilliseconds, signal);
      return postJson<T>(url ?? "", body, signal);
    },
    enabled: url !== undefined,
    ...(keepsLast ? { placeholderData: keepPreviousData } : {}),
  });
  return answerOf(query, url !== undefined);
}
