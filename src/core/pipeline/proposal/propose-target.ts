import type { ColumnProfile } from "../../evaluate/table-profile";
import { formatNumber } from "../../format/numbers";
import { isNumber, type ValueType } from "../../value-type";
import type { TargetKind } from "../schema";

/** More different texts than this are no classes. */
export const MOST_CLASSES = 50;
const YES = /^(yes|y|true|t|ja|j|oui|si|sí|on|positive)$/i;

/** What a target is, by its type and values. */
export interface TargetProposal {
  readonly kind: TargetKind;
  /** For yes or no: the value that means yes; undefined where the type says so itself. */
  readonly positive?: string | number;
  /** Why it cannot be predicted as it is. */
  readonly trouble?: string;
}

const asValue = (value: string, type: ValueType): string | number => (isNumber(type) ? Number(value) : value);

/** The one of two values that means yes: what says so, else the larger number or the rarer text. */
function positiveOf(profile: ColumnProfile, type: ValueType): string | number | undefined {
  const values = profile.topValues.map(({ value }) => value);
  const said = values.find((value) => YES.test(value));
  if (said !== undefined) return asValue(said, type);
  if (isNumber(type)) return Math.max(...values.map(Number));
  return values.at(-1);
}

function kindOfType(type: ValueType): TargetKind {
  if (type === "boolean") return "binary";
  return isNumber(type) ? "number" : "classes";
}

/** What kind of target a column is. */
export function proposeTarget(profile: ColumnProfile, type: ValueType): TargetProposal {
  const { distinct, column } = profile;
  const kind = kindOfType(type);
  if (distinct === 0) return { kind, trouble: `“${column}” is missing in all rows.` };
  if (distinct === 1)
    return {
      kind,
      trouble: `“${column}” has the same value in all rows, so there is nothing to predict.`,
    };
  if (type === "boolean") return { kind };
  if (distinct === 2 && (kind === "number" || type === "text")) {
    const positive = positiveOf(profile, type);
    return { kind: "binary", ...(positive === undefined ? {} : { positive }) };
  }
  if (kind === "number") return { kind };
  if (type !== "text")
    return {
      kind,
      trouble: `“${column}” has the type ${type}. Use an expression to convert it to a number or yes/no.`,
    };
  return distinct > MOST_CLASSES
    ? { kind, trouble: `“${column}” has ${formatNumber(distinct)} different values, too many for classes.` }
    : { kind };
}
