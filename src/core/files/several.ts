import { failure, problem, success, type Problem, type Result } from "../problem";
import type { Choices, ColumnLook, FileLook, LoadedType } from "./look";
import { troubleWithTarget } from "./change-choices";

/** The table that a file becomes unless somebody names another: called like the file. */
export const tableNameOf = (file: string): string =>
  file
    .replace(/\.[^.]*$/, "")
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, "_")
    .slice(0, 50) || "table";

/** A file that was looked at, and the table that it goes into. */
export interface SeveralFile {
  readonly name: string;
  readonly look: Pick<FileLook, "choices">;
  readonly table: string;
}

const WHOLE: readonly LoadedType[] = ["smallint", "integer", "bigint"];
const NUMBERS: readonly LoadedType[] = [...WHOLE, "double precision", "numeric"];

/** The narrowest type that holds the values of two. */
function commonType(left: LoadedType, right: LoadedType): LoadedType {
  if (left === right) return left;
  const both = [left, right];
  if (both.every((type) => WHOLE.includes(type))) return both.includes("bigint") ? "bigint" : "integer";
  if (both.every((type) => NUMBERS.includes(type)))
    return both.includes("numeric") ? "numeric" : "double precision";
  return both.every((type) => type === "date" || type === "timestamp") ? "timestamp" : "text";
}

const namesOf = ({ look }: SeveralFile): readonly string[] => look.choices.columns.map(({ name }) => name);

/** Why the rows of several files cannot go into one table; undefined where their columns agree. */
export function whyApart(files: readonly SeveralFile[]): string | undefined {
  const [first, ...others] = files;
  if (!first) return undefined;
  const wanted = namesOf(first);
  for (const other of others) {
    const names = namesOf(other);
    const lacking = wanted.find((name) => !names.includes(name));
    if (lacking !== undefined) return `“${other.name}” has no column ${lacking}, which “${first.name}” has.`;
    const further = names.find((name) => !wanted.includes(name));
    if (further !== undefined)
      return `“${other.name}” has a column ${further}, which “${first.name}” does not have.`;
  }
  return undefined;
}

/** Types by name that hold the values of all files. */
function commonTypes(files: readonly SeveralFile[]): ReadonlyMap<string, LoadedType> {
  const types = new Map<string, LoadedType>();
  for (const { look } of files)
    for (const { name, type } of look.choices.columns) {
      const known = types.get(name);
      types.set(name, known === undefined ? type : commonType(known, type));
    }
  return types;
}

/** What is wrong with where several files are to go, each at its place; undefined for those that are right. */
export function severalTroubles(
  files: readonly SeveralFile[],
  together: boolean,
  tables: readonly string[],
): readonly (string | undefined)[] {
  if (together)
    return files.map(({ table }, place) =>
      place === 0 ? troubleWithTarget({ table, mode: "new" }, tables) : undefined,
    );
  const names = files.map(({ table }) => table.trim());
  return names.map((name, place) =>
    names.indexOf(name) < place
      ? `“${files[names.indexOf(name)]!.name}” is already loaded into the table "${name}".`
      : troubleWithTarget({ table: name, mode: "new" }, tables),
  );
}

/**
 * How several files are loaded: each into a new table of its own with the key that was found, or all of them into one new table. That has
 * no key, since no file knows the keys of the others.
 * Problems: several_tables, columns_apart.
 */
export function severalChoices(
  files: readonly SeveralFile[],
  together: boolean,
  tables: readonly string[],
  misfits: Choices["misfits"],
): Result<readonly Choices[]> {
  const apart = together ? whyApart(files) : undefined;
  const problems: readonly Problem[] = [
    ...(apart === undefined ? [] : [problem("columns_apart", apart, "Load each file into its own table.")]),
    ...severalTroubles(files, together, tables).flatMap((trouble, place) =>
      trouble === undefined
        ? []
        : [problem("several_tables", `${files[place]!.name}: ${trouble}`, "Choose another name.")],
    ),
  ];
  if (problems.length > 0) return failure(...problems);
  const types = commonTypes(files);
  const widened = (column: ColumnLook): ColumnLook => ({
    ...column,
    type: together ? (types.get(column.name) ?? column.type) : column.type,
  });
  return success(
    files.map(({ look, table }, place): Choices => ({
      ...look.choices,
      columns: look.choices.columns.map(widened),
      key: together ? [] : look.choices.key,
      table: (together ? files[0]!.table : table).trim(),
      mode: together && place > 0 ? "append" : "new",
      misfits,
    })),
  );
}
