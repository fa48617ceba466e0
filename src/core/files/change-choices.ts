import type { Choices, ColumnLook } from "./look";

/** Choices with a column changed: the key follows a new name, and loses a column that is not taken. */
export function changeColumn(choices: Choices, place: number, change: Partial<ColumnLook>): Choices {
  const before = choices.columns.find((column) => column.place === place);
  if (!before) return choices;
  const after = { ...before, ...change };
  const key = choices.key.flatMap((name) => {
    if (name !== before.name) return [name];
    return after.take ? [after.name] : [];
  });
  return { ...choices, key, columns: choices.columns.map((column) => (column === before ? after : column)) };
}

/**
 * What is wrong with where a file is to go.
 * @param tables names of the tables that are there
 */
export function troubleWithTarget(
  { table, mode }: Pick<Choices, "table" | "mode">,
  tables: readonly string[],
): string | undefined {
  const name = table.trim();
  if (name === "") return "Enter a table name.";
  const there = tables.includes(name);
  if (mode === "new" && there)
    return `A table "${name}" already exists. Append to it, replace it, or choose another name.`;
  return mode !== "new" && !there
    ? `There is no table "${name}" yet. Load the file as a new table.`
    : undefined;
}
