import { parsePipeline, type ParsedPipeline } from "@/core/pipeline/parse";
import type { Source } from "@/core/pipeline/source";
import type { Result } from "@/core/problem";
import { KeptThread } from "./threads/kept-thread";

/** Files of fewer characters are read within a few hundredths of a second. */
const LARGE = 100_000;
/** Large files whose reading is kept: a page asks for the same one several times. */
const KEPT_FILES = 4;

const thread = new KeptThread<string, Result<Source>>("source-thread");
const kept = new Map<string, Promise<Result<Source>>>();

/** What stands in a large file, read beside the process. */
function sourceOf(text: string): Promise<Result<Source>> {
  const found = kept.get(text) ?? thread.ask(text);
  // What was asked for last stays longest.
  kept.delete(text);
  kept.set(text, found);
  found.catch(() => kept.delete(text));
  const [oldest] = kept.keys();
  if (kept.size > KEPT_FILES && oldest !== undefined) kept.delete(oldest);
  return found;
}

/** Reads a pipeline file as {@link parsePipeline} does; a large one without holding up what else the process does. */
export async function parseFile(
  text: string,
  options: { readonly draft?: boolean } = {},
): Promise<Result<ParsedPipeline>> {
  if (text.length <= LARGE) return parsePipeline(text, options);
  return parsePipeline(text, { ...options, source: await sourceOf(text) });
}
