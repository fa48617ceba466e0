import type { LineCounter } from "yaml";
import { isScalar, parseDocument, visit, YAMLParseError, type Document } from "yaml";

/**
 * Reads a text as YAML. Mistakes are among the errors of the document, doubled keys too: those are looked for here, because the
 * parser holds every key against every other, which for a mapping of many thousands of keys takes minutes.
 */
export function readYaml(text: string, lines?: LineCounter): Document.Parsed {
  const document = parseDocument(text, {
    prettyErrors: false,
    uniqueKeys: false,
    ...(lines ? { lineCounter: lines } : {}),
  });
  visit(document, {
    Map: (_key, map) => {
      const seen = new Set<unknown>();
      for (const { key } of map.items) {
        if (!isScalar(key)) continue;
        if (seen.has(key.value)) {
          const [start = 0, end = start] = key.range ?? [];
          document.errors.push(
            new YAMLParseError([start, end], "DUPLICATE_KEY", `The key "${String(key.value)}" appears twice`),
          );
        }
        seen.add(key.value);
      }
    },
  });
  return document;
}
