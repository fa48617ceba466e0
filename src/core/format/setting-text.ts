import { formatNumber } from "./numbers";

/** A name of the file as people read it: "learning_rate" is "learning rate". */
export const nameInWords = (name: string): string => name.replaceAll("_", " ");

/**
 * A value of a setting as people read it: numbers by the one formatter, names of ways without underscores, sizes of layers
 * joined by "-", parts of a record by commas.
 *
 * @param value a value of the pipeline file; null or undefined is "none"
 */
export function settingText(value: unknown): string {
  if (value === null || value === undefined) return "none";
  if (typeof value === "number") return formatNumber(value);
  if (typeof value === "string") return nameInWords(value);
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) return value.map(settingText).join("-");
  return namedSettings(value as Readonly<Record<string, unknown>>).join(", ");
}

/** Settings by name, each as "depth 4". */
export const namedSettings = (settings: Readonly<Record<string, unknown>>): string[] =>
  Object.entries(settings).map(([name, value]) => `${nameInWords(name)} ${settingText(value)}`);

/** Which setting is meant: of a step, or without one of the algorithm. */
export const settingName = ({
  step,
  setting,
}: {
  readonly step?: string | undefined;
  readonly setting: string;
}): string => `${step === undefined ? "" : `${step}: `}${nameInWords(setting)}`;
