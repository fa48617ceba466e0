"use client";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answerOf, settle, type Answer } from "../queries/answer";
import { postJson } from "../queries/fetch-json";
import { useDesk } from "./draft-context";

/** An answer is known for so long after nobody shows it any more. */
const KNOWN_MILLISECONDS = 600_000;

/**
 * The answer to a question about rows at a place of the draft. It is asked again only when the rows there may have
 * changed; until the new answer comes, the old one stays.
 * @param body undefined: nothing is asked
 */
export function useAnswer<T>(
  question: string,
  body: { readonly strand: string; readonly after: number } | undefined,
  pauseMilliseconds = 0,
): Answer<T> {
  const { surveyed, share, keys } = useDesk();
  // A place that cannot be read has no key.
  const place = body && keys[body.strand]?.[body.after];
  const isAsked = Boolean(place);
  const query = useQuery<T>({
    queryKey: ["draft", question, place, body],
    queryFn: async ({ signal }) => {
      await settle(pauseMilliseconds, signal);
      return postJson<T>(`/api/draft/${question}`, { text: surveyed, share, ...body }, signal);
    },
    enabled: isAsked,
    gcTime: KNOWN_MILLISECONDS,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  return answerOf(query, isAsked);
}
