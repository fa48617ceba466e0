import { isMap, isNode, isScalar, isSeq, LineCounter, type Document, type Node } from "yaml";
import { formatNumber } from "../format/numbers";
import { failure, problem, success, type Problem, type Result } from "../problem";
import { readYaml } from "./yaml";

type Path = readonly (string | number)[];

/** Largest file read, in characters. */
const MAX_LENGTH = 1_000_000;

/** Where a value begins, in characters from 0; a block text, where its mark is. */
interface Spot {
  readonly start: number;
  readonly written: "plain" | "quoted" | "block";
}

/** Where a setting stands: itself, and what is told of it when something below it is meant. */
interface Place {
  readonly itself?: Spot;
  readonly around?: Spot;
}

/** What stands where in a file. */
interface Places {
  readonly byPath: ReadonlyMap<string, Place>;
  /** Where lines begin, in characters from 0. */
  readonly lineStarts: readonly number[];
}

/** A file as it is written: its values, and where they stand. Nothing in it refers to the text, so that threads can hand it over. */
export interface Source {
  readonly raw: unknown;
  readonly places: Places;
}

const nameOf = (path: Path): string => JSON.stringify(path.map(String));

/** Reads the YAML of a pipeline file. Problems: file_too_large, yaml_syntax. */
export function readSource(text: string): Result<Source> {
  if (text.length > MAX_LENGTH)
    return failure(
      problem(
        "file_too_large",
        `The file has ${formatNumber(text.length)} characters; at most ${formatNumber(MAX_LENGTH)} are read.`,
        "Load long lists as a table and join it.",
      ),
    );
  const lines = new LineCounter();
  const document = readYaml(text, lines);
  if (document.errors.length > 0) {
    return failure(
      ...document.errors.map((error) => {
        const { line, col } = lines.linePos(error.pos[0]);
        return problem(
          "yaml_syntax",
          `This is not valid YAML: ${error.message.split("\n")[0] ?? ""}`,
          "Check indentation, quotes and colons near here.",
          { line, column: col },
        );
      }),
    );
  }
  try {
    const raw: unknown = document.toJS({ maxAliasCount: 50 });
    return success({ raw, places: placesOf(document, lines) });
  } catch (error) {
    return failure(
      problem(
        "yaml_syntax",
        `The file cannot be read: ${error instanceof Error ? error.message : String(error)}`,
        "Remove anchors and aliases.",
      ),
    );
  }
}

function spotOf(node: unknown): Spot | undefined {
  const start = isNode(node) ? node.range?.[0] : undefined;
  return start === undefined ? undefined : { start, written: writtenAs(node as Node) };
}

function writtenAs(node: Node): Spot["written"] {
  if (!isScalar(node)) return "plain";
  if (node.type === "QUOTE_DOUBLE" || node.type === "QUOTE_SINGLE") return "quoted";
  return node.type === "BLOCK_FOLDED" || node.type === "BLOCK_LITERAL" ? "block" : "plain";
}

/** Notes where everything stands. Of a setting with parts, its key is what is meant. */
function placesOf(document: Document, lines: LineCounter): Places {
  const byPath = new Map<string, Place>();
  const note = (path: Path, itself: unknown, around: unknown): void => {
    const [own, outer] = [spotOf(itself), spotOf(around)];
    byPath.set(nameOf(path), { ...(own ? { itself: own } : {}), ...(outer ? { around: outer } : {}) });
  };
  const walk = (node: unknown, path: Path): void => {
    if (isMap(node))
      for (const { key, value } of node.items) {
        if (!isScalar(key)) continue;
        const below = [...path, String(key.value)];
        note(below, isScalar(value) ? value : key, value ?? key);
        walk(value, below);
      }
    if (isSeq(node))
      node.items.forEach((item, index) => {
        note([...path, index], item, item);
        walk(item, [...path, index]);
      });
  };
  note([], document.contents, document.contents);
  walk(document.contents, []);
  return { byPath, lineStarts: lines.lineStarts };
}

/** The place of a path, or of the nearest one above it that is there. */
function spotAt({ byPath }: Places, path: Path): Spot | undefined {
  for (let length = path.length; length >= 0; length -= 1) {
    const place = byPath.get(nameOf(path.slice(0, length)));
    const spot = length === path.length ? place?.itself : place?.around;
    if (spot) return spot;
  }
  return undefined;
}

/** Adds line and column to a problem that has a path. */
export function placeProblem(places: Places, found: Problem): Problem {
  const { location } = found;
  if (!location?.path || location.line !== undefined) return found;
  const spot = spotAt(places, location.path);
  if (!spot) return found;
  const lines = new LineCounter();
  lines.lineStarts = [...places.lineStarts];
  // Inside a plain or quoted value the offset can be added; block texts begin on the line after their mark.
  const inside = (location.offset ?? 0) + (spot.written === "quoted" ? 1 : 0);
  const { line, col } = lines.linePos(spot.start + (spot.written === "block" ? 0 : inside));
  const told = spot.written === "block" ? { line: line + 1, column: 1 } : { line, column: col };
  return { ...found, location: { ...location, ...told } };
}
