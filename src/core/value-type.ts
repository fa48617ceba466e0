/** The types Ravlen tells apart, named as PostgreSQL names them. Anything else is carried through as "other". */
export const VALUE_TYPES = [
  "boolean",
  "smallint",
  "integer",
  "bigint",
  "numeric",
  "real",
  "double precision",
  "text",
  "date",
  "time",
  "timestamp",
  "timestamptz",
  "interval",
  "uuid",
  "json",
  // A learned vector of term weights, stored as an array of pairs.
  "sparse",
  "other",
] as const;

export type ValueType = (typeof VALUE_TYPES)[number];

/** What a person sees as one kind of data; drawn as one dash pattern and hue in the Braid. */
export type Family = "number" | "text" | "yes/no" | "time" | "span" | "other";

const ALIASES: Readonly<Record<string, ValueType>> = {
  bool: "boolean",
  int2: "smallint",
  int4: "integer",
  int: "integer",
  int8: "bigint",
  decimal: "numeric",
  float4: "real",
  float8: "double precision",
  float: "double precision",
  double: "double precision",
  varchar: "text",
  bpchar: "text",
  char: "text",
  character: "text",
  "character varying": "text",
  name: "text",
  citext: "text",
  "timestamp without time zone": "timestamp",
  "timestamp with time zone": "timestamptz",
  "time without time zone": "time",
  jsonb: "json",
};

/** The type behind a name as PostgreSQL's catalog or a cast writes it; lengths and precisions are ignored. */
export function valueTypeFromName(name: string): ValueType {
  const bare = name
    .toLowerCase()
    .replace(/\s*\(.*?\)/, "")
    .trim();
  const known = VALUE_TYPES.find((valueType) => valueType === bare);
  return known ?? ALIASES[bare] ?? "other";
}

const NUMBERS: readonly ValueType[] = [
  "smallint",
  "integer",
  "bigint",
  "numeric",
  "real",
  "double precision",
];

export const isNumber = (type: ValueType): boolean => NUMBERS.includes(type);
export const isInteger = (type: ValueType): boolean =>
  type === "smallint" || type === "integer" || type === "bigint";
export const isMoment = (type: ValueType): boolean =>
  type === "date" || type === "timestamp" || type === "timestamptz";

export function familyOf(type: ValueType): Family {
  if (isNumber(type)) return "number";
  if (isMoment(type) || type === "time") return "time";
  switch (type) {
    case "text":
    case "uuid":
      return "text";
    case "boolean":
      return "yes/no";
    case "interval":
      return "span";
    default:
      return "other";
  }
}

/** The type of an arithmetic result over two number types, as PostgreSQL resolves it. */
export function widerNumber(left: ValueType, right: ValueType): ValueType {
  // PostgreSQL prefers double precision as soon as a floating and an exact type meet, except real with real.
  if (left === right) return left;
  const floats = [left, right].filter((text) => text === "real" || text === "double precision");
  if (floats.length > 0) return "double precision";
  return NUMBERS.indexOf(left) > NUMBERS.indexOf(right) ? left : right;
}

/** Whether values of the two types can be compared or unified without a written cast. */
export function areComparable(left: ValueType, right: ValueType): boolean {
  if (left === right) return true;
  if (isNumber(left) && isNumber(right)) return true;
  return isMoment(left) && isMoment(right);
}
