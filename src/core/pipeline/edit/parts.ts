import { failure, problem, success, type Result } from "../../problem";
import {
  isBlock,
  isCollection,
  isMap,
  isScalar,
  isSeq,
  linesOf,
  mapLines,
  nodeOf,
  readSlice,
  setAt,
  spanOf,
  splice,
} from "./slice";
import { readYaml } from "../yaml";

export type RawStrand = Readonly<Record<string, unknown>>;

const unreadable = (): Result<never> =>
  failure(
    problem(
      "unreadable_file",
      "The file is not valid YAML, so it cannot be changed here.",
      "Fix the text first.",
    ),
  );

/** Changes something in a part of the file, such as `roles.known.collected_at`. Lines of other parts stay as they are; undefined removes. */
export function changePart(
  text: string,
  path: readonly [string, ...(string | number)[]],
  value: unknown,
): Result<string> {
  const document = readYaml(text);
  const root = document.contents;
  if (document.errors.length > 0 || !isMap(root)) return unreadable();
  const [part] = path;
  const lines = linesOf(text);
  const pair = root.items.find((entry) => isScalar(entry.key) && entry.key.value === part);
  if (!pair) {
    if (value === undefined) return success(text);
    const fresh = readSlice([`${part}:`]);
    setAt(fresh, path, value);
    return success([text.trimEnd(), "", ...mapLines(fresh, 0), ""].join("\n"));
  }
  const key = spanOf(text, pair.key as never);
  const end =
    pair.value && (pair.value as { range?: unknown }).range ? spanOf(text, pair.value as never).to : key.to;
  const span = { from: key.from, to: Math.max(key.to, end) };
  if (!isBlock(root)) return unreadable();
  const slice = readSlice(lines.slice(span.from, span.to + 1));
  setAt(slice, path, value);
  const printed = mapLines(slice, 0);
  const left: unknown = (slice.toJSON() as Readonly<Record<string, unknown>>)[part];
  // What was taken out may have been all there was.
  const emptied =
    value === undefined &&
    (left === undefined || left === null || (typeof left === "object" && Object.keys(left).length === 0));
  return success(splice(lines, span, emptied ? [] : printed));
}

/** Adds a strand behind the others. */
export function addStrand(text: string, strand: RawStrand): Result<string> {
  const document = readYaml(text);
  const list: unknown = document.getIn(["strands"], true);
  if (document.errors.length > 0 || !isSeq(list)) return unreadable();
  const lines = linesOf(text);
  const last = list.items.at(-1);
  const first = /^(\s*)-(\s+)/.exec(
    isMap(last) && last.range ? (lines[spanOf(text, last as never).from] ?? "") : "",
  );
  if (!isBlock(list) || !isMap(last) || !first) {
    list.add(nodeOf(strand, document));
    return success(document.toString({ lineWidth: 0, flowCollectionPadding: false }));
  }
  const at = spanOf(text, last as never).to;
  const fresh = mapLines(nodeOf(strand, readSlice([])), first[0].length).map((line, index) =>
    index === 0 ? `${first[0]}${line.trimStart()}` : line,
  );
  return success([...lines.slice(0, at + 1), "", ...fresh, ...lines.slice(at + 1)].join("\n"));
}

/** What was copied: a step or a strand, as a person may have written it. */
export type Pasted =
  | { readonly kind: "step"; readonly step: Readonly<Record<string, unknown>> }
  | { readonly kind: "strand"; readonly strand: RawStrand };

/** Reads copied text as steps or strands: single ones or lists. */
export function readPasted(text: string): readonly Pasted[] {
  const value: unknown = readYaml(text).toJSON();
  return (Array.isArray(value) ? value : [value]).flatMap((entry: unknown): Pasted[] => {
    if (typeof entry !== "object" || entry === null) return [];
    const record = entry as Readonly<Record<string, unknown>>;
    if (typeof record["do"] === "string") return [{ kind: "step", step: record }];
    if (typeof record["name"] === "string" && record["from"] !== undefined)
      return [{ kind: "strand", strand: record }];
    return [];
  });
}

/** A strand as it stands in the file, for copying. */
export function strandText(text: string, strand: number): Result<string> {
  const node: unknown = readYaml(text).getIn(["strands", strand], true);
  if (!isMap(node)) return failure(problem("unknown_strand", "Strand not found in the file."));
  const [first = "", ...rest] = mapLines(node, 2);
  return success([`- ${first.trimStart()}`, ...rest].join("\n"));
}

/** The text that was read last: a page asks many parts of the same one. */
let lastRead: { readonly text: string; readonly document: ReturnType<typeof readYaml> } | undefined;

/** What stands at a path of a text, as plain data; undefined when nothing does, or the text is no YAML. */
export function valueIn(text: string, path: readonly (string | number)[]): unknown {
  const document = lastRead?.text === text ? lastRead.document : readYaml(text);
  lastRead = { text, document };
  const node: unknown = document.errors.length > 0 ? undefined : document.getIn(path, true);
  if (isCollection(node)) return node.toJSON();
  if (isScalar(node)) return node.value;
  return undefined;
}
