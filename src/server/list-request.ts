import { z } from "zod";
import { textInput } from "./answer/inputs";

/** Rows of a list on one page. */
export const PAGE_ROWS = 50;
const MOST_PAGES = 100_000;

/** What the address of a list says: words to look for, a filter, and the page, from 1. What it says wrongly is as if it said nothing. */
export interface ListRequest<Filter extends string> {
  readonly words: string;
  readonly filter: Filter | undefined;
  readonly page: number;
  readonly offset: number;
}

type Params = Readonly<Record<string, string | string[] | undefined>>;

/** Reads the address of a list. @param filters the filters that it has */
export function readListRequest<Filter extends string>(
  params: Params,
  filters: readonly Filter[],
): ListRequest<Filter> {
  const words = textInput(200).safeParse(params["q"]);
  const page = z.coerce
    .number()
    .int()
    .min(1)
    .max(MOST_PAGES)
    .safeParse(params["page"] ?? 1);
  const number = page.success ? page.data : 1;
  return {
    words: words.success ? words.data.trim() : "",
    filter: filters.find((filter) => filter === params["show"]),
    page: number,
    offset: PAGE_ROWS * (number - 1),
  };
}

/** A page of a list, and how many entries there are in all. */
export interface ListPage<Entry> {
  readonly entries: readonly Entry[];
  readonly all: number;
}
