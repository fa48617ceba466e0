import type { z } from "zod";
import type { RangeFile, SearchFile } from "../../pipeline/schema";
import { settingProperties, type SettingProperty } from "../../setting-properties";

/** What a setting can be, as its schema tells, where a search can try it. */
export interface Searchable {
  readonly setting: string;
  /** whole: whole numbers. choice: one of some values. numbers: a list of numbers. */
  readonly kind: "number" | "whole" | "choice" | "numbers";
  /** Of a choice. */
  readonly choices: readonly (string | boolean)[];
  /** Smallest and largest number, as far as there are bounds. */
  readonly least?: number;
  readonly most?: number;
  /** What comes when nothing is said. */
  readonly standard?: unknown;
  readonly about: string;
}

/** Settings that are no matter of trying. */
const NEVER: readonly string[] = ["do", "name", "note", "off", "seed"];

const isNumeric = ({ type }: SettingProperty): boolean => type === "number" || type === "integer";

function choicesOf(property: SettingProperty): readonly (string | boolean)[] {
  if (property.enum) return property.enum;
  if (property.const !== undefined) return [property.const];
  if (property.type === "boolean") return [true, false];
  return (property.anyOf ?? []).flatMap(choicesOf);
}

/** Bounds of a number; the integers that a JSON Schema names as bounds of every whole number are none. */
function boundsOf(property: SettingProperty): Pick<Searchable, "least" | "most"> {
  const least = property.minimum ?? property.exclusiveMinimum;
  const most = property.maximum ?? property.exclusiveMaximum;
  return {
    ...(least === undefined || least <= Number.MIN_SAFE_INTEGER ? {} : { least }),
    ...(most === undefined || most >= Number.MAX_SAFE_INTEGER ? {} : { most }),
  };
}

function searchableOf(setting: string, property: SettingProperty): Searchable | undefined {
  const common = {
    setting,
    about: property.description ?? "",
    ...(property.default === undefined ? {} : { standard: property.default }),
  };
  const numeric = isNumeric(property) ? property : property.anyOf?.find(isNumeric);
  if (numeric)
    return {
      ...common,
      kind: numeric.type === "integer" ? "whole" : "number",
      choices: [],
      ...boundsOf(numeric),
    };
  if (property.type === "array" && property.items && isNumeric(property.items))
    return { ...common, kind: "numbers", choices: [] };
  const choices = choicesOf(property);
  return choices.length > 1 ? { ...common, kind: "choice", choices } : undefined;
}

/** The settings of a step or a learner that a search can try, from their own schema. */
export function searchableSettings(settings: z.ZodType): readonly Searchable[] {
  return settingProperties(settings).flatMap(([setting, property]) =>
    NEVER.includes(setting) ? [] : (searchableOf(setting, property) ?? []),
  );
}

/**
 * A search whose ranges give whole numbers where the setting takes no others, whatever the file says of it.
 * @param settingsOf what can be tried of the learner, or of a named step
 */
export function withWholeNumbers(
  search: SearchFile,
  settingsOf: (step: string | undefined) => readonly Searchable[],
): SearchFile {
  const adjusted = (range: RangeFile): RangeFile => {
    const isWhole = settingsOf(range.step).some(
      ({ setting, kind }) => setting === range.setting && kind === "whole",
    );
    return isWhole && range.values === undefined ? { ...range, whole: true } : range;
  };
  return { ...search, try: search.try.map(adjusted) };
}
