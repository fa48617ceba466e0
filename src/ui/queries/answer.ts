import type { UseQueryResult } from "@tanstack/react-query";

/** What a question has come to. */
export interface Answer<T> {
  readonly value: T | undefined;
  readonly failure: string | undefined;
  readonly asking: boolean;
}

/**
 * @param query a query as its library describes it
 * @param isAsked whether the question is asked at all
 * @returns its value or failure; nothing of an earlier question once none is asked
 */
export function answerOf<T>({ data, error, isFetching }: UseQueryResult<T>, isAsked: boolean): Answer<T> {
  if (!isAsked) return { value: undefined, failure: undefined, asking: false };
  return { value: data, failure: error?.message, asking: isFetching };
}

/** Waits, unless whoever asked goes away before. */
export const settle = (milliseconds: number, signal: AbortSignal): Promise<void> =>
  new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, milliseconds);
    signal.addEventListener("abort", () => {
      clearTimeout(timer);
      reject(new DOMException("given up", "AbortError"));
    });
  });
