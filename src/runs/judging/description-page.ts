import { marked } from "marked";

const STYLE =
  "body{font:16px/1.5 system-ui,sans-serif;max-width:52rem;margin:2rem auto;padding:0 1rem;color:#2b211c}table{border-collapse:collapse;margin:.5rem 0}th,td{border-bottom:1px solid #ccc;padding:.2rem .8rem .2rem 0;text-align:left;vertical-align:top}code{font-size:.9em}";

/** A description as a page that stands by itself. */
export async function descriptionPage(name: string, markdown: string): Promise<string> {
  const title = name.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
  return `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>${title}</title><style>${STYLE}</style></head><body>\n${await marked.parse(markdown)}</body></html>\n`;
}
