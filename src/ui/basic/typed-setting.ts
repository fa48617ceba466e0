import { formatNumber, roundSignificant } from "@/core/format/numbers";
import type { SettingProperty } from "@/core/setting-properties";

/** A value as it stands in a field. */
export function textOf(value: unknown): string {
  if (value === undefined) return "";
  if (Array.isArray(value)) return value.join(", ");
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

const isNumeric = ({ type }: SettingProperty): boolean => type === "number" || type === "integer";

/** A number as a person types it: with a point or a comma, or as a share in percent; not a number where it is none. */
function numberTyped(text: string): number {
  const plain = text.trim().replace(",", ".");
  return plain.endsWith("%") ? roundSignificant(Number(plain.slice(0, -1)) / 100, 12) : Number(plain);
}

/** The same number as the file writes it; a text that is no number stays what it is. */
export function writeNumberTyped(text: string): string {
  const value = numberTyped(text);
  return text.trim() === "" || Number.isNaN(value) ? text.trim() : String(value);
}

/** What a typed text means for a setting: undefined for what comes when nothing is said; the text itself where it means nothing. */
export function readTyped(text: string, property: SettingProperty): unknown {
  const value = valueTyped(text, property);
  return JSON.stringify(value) === JSON.stringify(property.default) ? undefined : value;
}

function valueTyped(text: string, property: SettingProperty): unknown {
  if (text.trim() === "") return undefined;
  if (property.type === "array")
    return text
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number);
  if (property.type === "object") {
    try {
      return JSON.parse(text) as unknown;
    } catch {
      return text;
    }
  }
  const number = numberTyped(text);
  return Number.isNaN(number) ? text : number;
}

/** What is wrong with a typed text, in words of the field; undefined where it is good, or nothing. */
export function mistakeIn(text: string, property: SettingProperty): string | undefined {
  if (text.trim() === "" || !isNumeric(property)) return undefined;
  const value = numberTyped(text);
  if (Number.isNaN(value)) return `“${text.trim()}” is not a number.`;
  if (property.type === "integer" && !Number.isInteger(value)) return "Enter a whole number.";
  const { minimum, exclusiveMinimum, maximum, exclusiveMaximum } = property;
  if (minimum !== undefined && value < minimum) return `At least ${formatNumber(minimum)}.`;
  if (exclusiveMinimum !== undefined && value <= exclusiveMinimum)
    return `More than ${formatNumber(exclusiveMinimum)}.`;
  if (maximum !== undefined && value > maximum) return `At most ${formatNumber(maximum)}.`;
  return exclusiveMaximum !== undefined && value >= exclusiveMaximum
    ? `Less than ${formatNumber(exclusiveMaximum)}.`
    : undefined;
}
