import {
  Document,
  isCollection,
  isMap,
  isPair,
  isScalar,
  isSeq,
  type Node,
  type ParsedNode,
  type YAMLMap,
  type YAMLSeq,
} from "yaml";
import { readYaml } from "../yaml";

/** Whole lines of a text: from this line to this one, both included, counted from 0. */
export interface LineSpan {
  readonly from: number;
  readonly to: number;
}

const PRINTED = { lineWidth: 0, flowCollectionPadding: false, indentSeq: true } as const;

/** Longest list of scalars that is written in one line, in characters. */
const MOST_IN_LINE = 90;

export const linesOf = (text: string): string[] => text.split("\n");

/** Puts lines in the place of a span. */
export const splice = (lines: readonly string[], span: LineSpan, put: readonly string[]): string =>
  [...lines.slice(0, span.from), ...put, ...lines.slice(span.to + 1)].join("\n");

const lineAt = (text: string, offset: number): number => text.slice(0, offset).split("\n").length - 1;

/** The lines a node's own text takes, without comments before it. */
export function spanOf(text: string, node: ParsedNode): LineSpan {
  const [from, end] = node.range;
  // A node that ends with a line break (a block scalar) ends on the line before.
  const last = text.slice(from, end).replace(/\s+$/, "");
  return { from: lineAt(text, from), to: lineAt(text, from + last.length) };
}

/** Blank lines and comments of their own right above a span, down from the line after `floor`. */
export function withLeading(lines: readonly string[], span: LineSpan, floor: number): LineSpan {
  let from = span.from;
  while (from - 1 > floor && /^\s*(#.*)?$/.test(lines[from - 1] ?? "")) from -= 1;
  return { from, to: span.to };
}

const isPlainScalar = (value: unknown): boolean =>
  value === null || ["string", "number", "boolean"].includes(typeof value);
const fitsLine = (value: unknown): boolean =>
  JSON.stringify(value).length <= MOST_IN_LINE && !JSON.stringify(value).includes("\\n");

/** Writes short lists of scalars, and lists of such lists, in one line; everything else below each other. */
function layOut(node: unknown, depth: number): void {
  if (isSeq(node)) {
    const plain = node.items.every((item) => isScalar(item) || (isSeq(item) && item.items.every(isScalar)));
    node.flow = plain ? fitsLine(node.toJSON()) || node.items.every(isSeq) : false;
    if (!node.flow)
      node.items.forEach((item) =>
        isMap(item) &&
        fitsLine(item.toJSON()) &&
        item.items.every((pair) => isScalar(pair.value) || isSeq(pair.value))
          ? flowAll(item)
          : layOut(item, depth + 1),
      );
  } else if (isMap(node)) {
    const small =
      depth > 1 &&
      node.items.length > 0 &&
      node.items.every((pair) => isScalar(pair.value)) &&
      fitsLine(node.toJSON());
    if (small) node.flow = true;
    else node.items.forEach((pair) => layOut(pair.value, depth + 1));
  }
}

function flowAll(node: unknown): void {
  if (!isCollection(node)) return;
  node.flow = true;
  if (isMap(node)) node.items.forEach((pair) => flowAll(pair.value));
  else node.items.forEach(flowAll);
}

/** A value as a YAML node in the layout of the files we write. */
export function nodeOf(value: unknown, document: Document, depth = 1): Node {
  const node = document.createNode(value) as Node;
  layOut(node, depth);
  return node;
}

/** A map as lines, each line indented by so many spaces. */
export function mapLines(node: Node | Document, indent: number): string[] {
  const document = node instanceof Document ? node : new Document(node);
  return document
    .toString(PRINTED)
    .replace(/\n+$/, "")
    .split("\n")
    .map((line) => (line === "" ? "" : " ".repeat(indent) + line));
}

/**
 * Puts a value at a path below a node: undefined removes it. What was there keeps its style when the kind of value is the same.
 */
export function setAt(document: Document, path: readonly (string | number)[], value: unknown): void {
  if (value === undefined) {
    if (document.hasIn(path)) document.deleteIn(path);
    return;
  }
  // What stands between may not be there yet, or be left empty.
  const reach = path.findIndex(
    (_, index) => index > 0 && !isCollection(document.getIn(path.slice(0, index), true)),
  );
  if (reach > 0) {
    const nested = path
      .slice(reach)
      .reduceRight<unknown>((inner, key) => (typeof key === "number" ? [inner] : { [key]: inner }), value);
    document.setIn(path.slice(0, reach), nodeOf(nested, document));
    return;
  }
  const before: unknown = document.getIn(path, true);
  if (isScalar(before) && isPlainScalar(value)) {
    // A changed type needs other quotes than the old one had.
    if (typeof before.value !== typeof value) delete (before as { type?: string }).type;
    before.value = value;
    return;
  }
  const fresh = nodeOf(value, document);
  if (
    isCollection(before) &&
    isCollection(fresh) &&
    before.constructor === fresh.constructor &&
    before.flow !== undefined &&
    fitsLine(value)
  ) {
    if (before.flow) flowAll(fresh);
    else fresh.flow = false;
  }
  if (isCollection(before) && isCollection(fresh)) {
    if (before.comment) fresh.comment = before.comment;
    if (before.commentBefore) fresh.commentBefore = before.commentBefore;
    keepItems(before, fresh);
  }
  document.setIn(path, fresh);
}

/** Entries that stay the same are taken over with their comments. */
function keepItems(before: YAMLMap | YAMLSeq, fresh: YAMLMap | YAMLSeq): void {
  if (isMap(before) && isMap(fresh)) {
    const old = firstOf(before.items);
    fresh.items = fresh.items.map((pair) => old.get(identity(pair)) ?? pair);
  } else if (isSeq(before) && isSeq(fresh)) {
    const old = firstOf(before.items);
    fresh.items = fresh.items.map((item) => old.get(identity(item)) ?? item);
  }
}

const plain = (node: unknown): unknown => {
  if (isScalar(node)) return node.value;
  if (isCollection(node)) return node.toJSON();
  return node;
};
/** The same text for entries that say the same. */
const identity = (item: unknown): string =>
  JSON.stringify(isPair(item) ? [plain(item.key), plain(item.value)] : plain(item)) ?? "";

/** The first of entries that say the same, by what they say. */
function firstOf<Item>(items: readonly Item[]): ReadonlyMap<string, Item> {
  const found = new Map<string, Item>();
  for (const item of items) {
    const name = identity(item);
    if (!found.has(name)) found.set(name, item);
  }
  return found;
}

/** A text of its own, read as YAML. */
export const readSlice = (lines: readonly string[]): Document.Parsed => readYaml(lines.join("\n"));

/** Whether a node is written below each other, so that lines of it can be exchanged. */
export const isBlock = (node: unknown): boolean => isCollection(node) && node.flow !== true;

export { isCollection, isMap, isScalar, isSeq };
