import { failure, problem, success, type Result } from "../../problem";
import { readYaml } from "../yaml";
import { changePart } from "./parts";

type Path = readonly [string, ...(string | number)[]];

/** A field of the file that says something else in two texts; undefined where one does not have it. */
export interface FieldDifference {
  readonly path: Path;
  /** The place in words: names of strands, steps and entries where they have some. */
  readonly label: string;
  readonly mine: unknown;
  readonly theirs: unknown;
}

type Fields = Readonly<Record<string, unknown>>;
const isFields = (value: unknown): value is Fields =>
  typeof value === "object" && value !== null && !Array.isArray(value);

const same = (left: unknown, right: unknown): boolean => JSON.stringify(left) === JSON.stringify(right);

/** What an entry of a list is called: by its name, or what it does, else by its number. */
function entryLabel(entry: unknown, place: number): string {
  const { name, do: kind } = isFields(entry) ? entry : {};
  if (typeof name === "string") return `“${name}”`;
  return typeof kind === "string" ? `${place + 1} (${kind})` : String(place + 1);
}

interface Place {
  readonly path: readonly (string | number)[];
  readonly label: readonly string[];
}

function differences(mine: unknown, theirs: unknown, { path, label }: Place): readonly FieldDifference[] {
  if (same(mine, theirs)) return [];
  if (isFields(mine) && isFields(theirs))
    return [...new Set([...Object.keys(mine), ...Object.keys(theirs)])].flatMap((name) =>
      differences(mine[name], theirs[name], { path: [...path, name], label: [...label, name] }),
    );
  const isParted = Array.isArray(mine) && Array.isArray(theirs) && mine.length === theirs.length;
  if (isParted && [...mine, ...theirs].every(isFields))
    return mine.flatMap((entry: unknown, place) =>
      differences(entry, (theirs as readonly unknown[])[place], {
        path: [...path, place],
        label: [...label, entryLabel(entry, place)],
      }),
    );
  return [{ path: path as unknown as Path, label: label.join(", "), mine, theirs }];
}

/** What a text says, as fields; undefined where it is no good YAML. */
function fieldsOf(text: string): Fields | undefined {
  const document = readYaml(text);
  const value: unknown = document.errors.length > 0 ? undefined : document.toJS();
  return isFields(value) ? value : undefined;
}

/**
 * Field by field, what two texts of a pipeline's file say differently. Lists of equal length are compared entry by entry; others, as
 * steps after one was added, as a whole.
 */
export function fieldDifferences(mine: string, theirs: string): Result<readonly FieldDifference[]> {
  const [own, other] = [fieldsOf(mine), fieldsOf(theirs)];
  if (own && other) return success(differences(own, other, { path: [], label: [] }));
  return failure(
    problem(
      "unreadable_file",
      "One of the two texts is not valid YAML, so they cannot be compared field by field.",
      "Use one of them; the other can be restored from History.",
    ),
  );
}

/** A text with some fields as another one has them. Lines of all other fields stay as they are. */
export function withTheirs(mine: string, chosen: readonly FieldDifference[]): Result<string> {
  let text = mine;
  for (const { path, theirs } of chosen) {
    const changed = changePart(text, path, theirs);
    if (!changed.ok) return changed;
    text = changed.value;
  }
  return success(text);
}
