import type { ContractColumn } from "../plan/stand-in";
import { failure, problem, success, type Result } from "../problem";
import type { ValueType } from "../value-type";
import { LOADED_TYPES, type Choices, type ColumnLook, type FileLook, type LoadedType } from "./look";
import { missingMarkers } from "./propose";

/** The type that a column is loaded as; those that no file can be loaded as come as text, which the database reads. */
function loadedType(type: ValueType): LoadedType {
  if (type === "json") return "jsonb";
  if (type === "real") return "double precision";
  return LOADED_TYPES.find((known) => known === type) ?? "text";
}

/**
 * How a file is loaded whose columns are known before: by their names, as they stand in the file or as a table's columns would be
 * named after them, with the types of the contract, whatever the values look like. Other columns are not loaded, except those
 * passed through, which keep the types that were found.
 * Problems: columns_lacking.
 */
export function contractChoices(
  look: FileLook,
  contract: { readonly needed: readonly ContractColumn[]; readonly answer: readonly ContractColumn[] },
): Result<Pick<Choices, "columns" | "values" | "key" | "text" | "sheet">> {
  const wanted = [...contract.needed, ...contract.answer];
  const places = new Map(
    wanted.flatMap(({ name }): [string, number][] => {
      const byHeading = look.findings.findIndex((found) => found.source === name);
      const column =
        look.choices.columns[byHeading] ?? look.choices.columns.find((found) => found.name === name);
      return column === undefined ? [] : [[name, column.place]];
    }),
  );
  const lacking = contract.needed.filter(({ name }) => !places.has(name));
  if (lacking.length > 0)
    return failure(
      problem(
        "columns_lacking",
        `The file has no column ${lacking.map(({ name }) => `"${name}"`).join(", ")}, which features are computed from.`,
        `Rows to score need ${contract.needed.map(({ name }) => name).join(", ")}; the file has ${look.findings.map(({ source }) => source).join(", ")}.`,
      ),
    );
  const types = new Map(wanted.map(({ name, type }) => [places.get(name), { name, type: loadedType(type) }]));
  const columns = look.choices.columns.map((column): ColumnLook => {
    const { dateOrder, place } = column;
    const known = types.get(place);
    return {
      place,
      take: known !== undefined,
      ...(dateOrder ? { dateOrder } : {}),
      ...(known ?? nameless(column)),
    };
  });
  const missing = missingMarkers(
    columns.flatMap(({ place, type, take }) =>
      take ? [{ markers: (look.findings[place]!.markers ?? []).map(([marker]) => marker), type }] : [],
    ),
  );
  return success({
    ...look.choices,
    columns,
    key: [],
    values: { ...look.choices.values, missing: [...missing] },
  });
}

const nameless = ({ name, type }: ColumnLook): Pick<ColumnLook, "name" | "type"> => ({ name, type });
