import { LRUCache } from "lru-cache";
import { parsePipeline, type ParsedPipeline } from "@/core/pipeline/parse";
import type { Source } from "@/core/pipeline/source";
import type { Result } from "@/core/problem";
import { KeptThread } from "./threads/kept-thread";

/** Files of fewer characters are read within a few hundredths of a second. */
const LARGE = 100_000;
/** Large files whose reading is kept: a page asks for the same one several times. */
const KEPT_FILES = 4;
/** Small files whose reading is kept. */
const KEPT_SMALL = 30;

const thread = new KeptThread<string, Result<Source>>("source-thread");
const parsed = new LRUCache<string, Result<ParsedPipeline>>({ max: KEPT_SMALL });
const kept = new LRUCache<string, Promise<Result<Source>>>({ max: KEPT_FILES });

/** What stands in a large file, read beside the process. */
function sourceOf(text: string): Promise<Result<Source>> {
  const found = kept.get(text) ?? thread.ask(text);
  kept.set(text, found);
  found.catch(() => kept.delete(text));
  return found;
}

/** Reads a small file, or gives what was read of the same text before. */
function parseSmall(text: string, draft: boolean): Result<ParsedPipeline> {
  const key = `${draft ? "draft" : "saved"} ${text}`;
  const found = parsed.get(key) ?? parsePipeline(text, { draft });
  parsed.set(key, found);
  return found;
}

/** Reads a pipeline file as {@link parsePipeline} does; a large one without holding up what else the process does. */
export async function parseFile(
  text: string,
  options: { readonly draft?: boolean } = {},
): Promise<Result<ParsedPipeline>> {
  if (text.length <= LARGE) return parseSmall(text, options.draft ?? false);
  return parsePipeline(text, { ...options, source: await sourceOf(text) });
}
