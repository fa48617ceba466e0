import type { Document } from "yaml";
import { readYaml } from "../yaml";
import { failure, problem, success, type Result } from "../../problem";
import {
  isBlock,
  isMap,
  isSeq,
  linesOf,
  mapLines,
  nodeOf,
  readSlice,
  setAt,
  spanOf,
  splice,
  withLeading,
  type LineSpan,
} from "./slice";

/** A step by its place in the file: strand and step, both counted from 0 in the order of the file. */
export interface StepPlace {
  readonly strand: number;
  readonly position: number;
}

export type RawStep = Readonly<Record<string, unknown>>;

const stepsPath = (strand: number): readonly (string | number)[] => ["strands", strand, "steps"];

interface Located {
  readonly document: Document.Parsed;
  readonly lines: readonly string[];
  /** Lines of each step with the comments above it. */
  readonly spans: readonly LineSpan[];
  /** The same without the comments. */
  readonly own: readonly LineSpan[];
  /** Column at which the dash stands. */
  readonly indent: number;
  /** Column at which the settings stand. */
  readonly inner: number;
}

const unreadable = (): Result<never> =>
  failure(
    problem(
      "unreadable_file",
      "The file is not valid YAML, so it cannot be changed here.",
      "Fix the text first.",
    ),
  );
/** The problem that a step is not in the file. */
export const noStep = (): Result<never> =>
  failure(
    problem(
      "unknown_step",
      "Step not found in the file.",
      "It may have been moved or deleted in the meantime.",
    ),
  );

/** Where the steps of a strand stand, line by line; undefined when they are not written as a list below each other. */
function locate(text: string, strand: number): Located | undefined {
  const document = readYaml(text);
  const list: unknown = document.getIn(stepsPath(strand), true);
  if (!isSeq(list) || !isBlock(list) || list.items.length === 0) return undefined;
  const lines = linesOf(text);
  const own: LineSpan[] = [];
  let indent = 0;
  let inner = 0;
  for (const [index, item] of list.items.entries()) {
    if (!isMap(item) || !isBlock(item) || !item.range) return undefined;
    const span = spanOf(text, item as never);
    const line = lines[span.from] ?? "";
    const found = /^(\s*)-(\s+)/.exec(line);
    if (!found) return undefined;
    if (index === 0) {
      indent = found[1]!.length;
      inner = found[0].length;
    } else if (found[1]!.length !== indent || found[0].length !== inner) return undefined;
    own.push(span);
  }
  // The first step's comments belong to it too, as far up as the "steps:" line.
  const head = lines.findIndex(
    (line, index) =>
      index < own[0]!.from &&
      /^\s*steps\s*:/.test(line) &&
      lines.slice(index + 1, own[0]!.from).every((line) => /^\s*(#.*)?$/.test(line)),
  );
  const spans = own.map((span, index) =>
    withLeading(lines, span, index === 0 ? Math.max(head, 0) : own[index - 1]!.to),
  );
  return { document, lines, spans, own, indent, inner };
}

/** The same change on the whole document, for files in another style than one item below the other. */
function onDocument(text: string, change: (document: Document.Parsed) => void): Result<string> {
  const document = readYaml(text);
  if (document.errors.length > 0) return unreadable();
  change(document);
  return success(document.toString({ lineWidth: 0, flowCollectionPadding: false }));
}

/** Changes settings of a step: each path, seen from the step, gets its value; undefined removes it. Other lines stay as they are. */
export function changeStep(
  text: string,
  place: StepPlace,
  changes: readonly { readonly path: readonly (string | number)[]; readonly value: unknown }[],
): Result<string> {
  const located = locate(text, place.strand);
  const apply = (document: Document, base: readonly (string | number)[]): void =>
    changes.forEach((change) => setAt(document, [...base, ...change.path], change.value));
  if (!located)
    return hasStep(text, place)
      ? onDocument(text, (document) => apply(document, [...stepsPath(place.strand), place.position]))
      : noStep();
  const span = located.own[place.position];
  if (!span) return noStep();
  const slice = located.lines
    .slice(span.from, span.to + 1)
    .map((line, index) =>
      index === 0
        ? line.slice(located.inner)
        : line.slice(Math.min(located.inner, line.length - line.trimStart().length)),
    );
  const document = readSlice(slice);
  apply(document, []);
  return success(splice(located.lines, span, asItem(mapLines(document, located.inner), located)));
}

/** The first line gets the dash. */
const asItem = (
  lines: readonly string[],
  { indent, inner }: { readonly indent: number; readonly inner: number },
): string[] =>
  lines.map((line, index) =>
    index === 0 ? `${" ".repeat(indent)}-${" ".repeat(inner - indent - 1)}${line.slice(inner)}` : line,
  );

function hasStep(text: string, place: StepPlace): boolean {
  return isMap(readYaml(text).getIn([...stepsPath(place.strand), place.position], true));
}

/** A step as it stands in the file, with its comments: what is copied to another place or pipeline. */
export function stepText(text: string, place: StepPlace): Result<string> {
  const located = locate(text, place.strand);
  const span = located?.own[place.position];
  if (located && span)
    return success(
      located.lines
        .slice(span.from, span.to + 1)
        .map((line) => line.slice(Math.min(located.indent, line.length - line.trimStart().length)))
        .join("\n"),
    );
  const step: unknown = readYaml(text).getIn([...stepsPath(place.strand), place.position], false);
  const read = isMap(step) ? step : undefined;
  return read ? success(asItem(mapLines(read, 2), { indent: 0, inner: 2 }).join("\n")) : noStep();
}

/** Puts a new step before the one at a position (or at the end). */
export function insertStep(text: string, place: StepPlace, step: RawStep): Result<string> {
  const located = locate(text, place.strand);
  if (!located) {
    return onDocument(text, (document) => {
      const list: unknown = document.getIn(stepsPath(place.strand), true);
      const node = nodeOf(step, document);
      if (isSeq(list) && list.items.length > 0)
        list.items.splice(Math.min(place.position, list.items.length), 0, node as never);
      else document.setIn(stepsPath(place.strand), document.createNode([node]));
    });
  }
  const document = readSlice([]);
  return success(
    insertLines(located, place.position, asItem(mapLines(nodeOf(step, document), located.inner), located)),
  );
}

function insertLines(located: Located, position: number, fresh: readonly string[]): string {
  const at = Math.min(position, located.own.length);
  const line = at === 0 ? located.spans[0]!.from : located.own[at - 1]!.to + 1;
  return [...located.lines.slice(0, line), ...fresh, ...located.lines.slice(line)].join("\n");
}

/** Takes a step out, with the comments above it. */
export function removeStep(text: string, place: StepPlace): Result<string> {
  const located = locate(text, place.strand);
  if (!located || located.own.length === 1) {
    if (!hasStep(text, place)) return noStep();
    return onDocument(
      text,
      (document) =>
        void document.deleteIn(
          located ? stepsPath(place.strand) : [...stepsPath(place.strand), place.position],
        ),
    );
  }
  const span = located.spans[place.position];
  return span ? success(splice(located.lines, span, [])) : noStep();
}

/** Moves a step within its strand, with the comments above it: afterwards it stands at `to`. */
export function moveStep(text: string, place: StepPlace, to: number): Result<string> {
  const located = locate(text, place.strand);
  if (!located) {
    return hasStep(text, place)
      ? onDocument(text, (document) => {
          const list: unknown = document.getIn(stepsPath(place.strand), true);
          if (isSeq(list)) list.items.splice(to, 0, ...list.items.splice(place.position, 1));
        })
      : noStep();
  }
  const { spans, lines } = located;
  if (!spans[place.position] || !spans[to]) return noStep();
  const order = spans.map((_, index) => index);
  order.splice(to, 0, ...order.splice(place.position, 1));
  const blocks = order.map((index) => lines.slice(spans[index]!.from, spans[index]!.to + 1));
  return success(splice(lines, { from: spans[0]!.from, to: spans.at(-1)!.to }, blocks.flat()));
}

/** Puts a copy of a step right behind it. A name gets "again" added, since names tell steps apart. */
export function duplicateStep(text: string, place: StepPlace): Result<string> {
  const value: unknown = readYaml(text).getIn([...stepsPath(place.strand), place.position], false);
  if (!isMap(value)) return noStep();
  const step = value.toJSON() as Record<string, unknown>;
  const name = typeof step["name"] === "string" ? { name: `${step["name"].slice(0, 54)} again` } : {};
  return insertStep(text, { ...place, position: place.position + 1 }, { ...step, ...name });
}
