import { areComparable, isInteger, isMoment, isNumber, widerNumber, type ValueType } from "../value-type";

/** A checked argument: its type, or "null" for NULL and "string" for a bare literal that takes the type around it. */
export type ArgumentType = ValueType | "null" | "string";

export interface FunctionRule {
  readonly aggregate: boolean;
  /** Least and most arguments. */
  readonly arity: readonly [number, number];
  /** How it is written, for messages and completion. */
  readonly usage: string;
  /** The result type, or undefined when the arguments do not fit. */
  readonly result: (args: readonly ArgumentType[]) => ValueType | undefined;
  /** Whether NULL can come out although no argument is NULL. */
  readonly canInventNull?: boolean;
  /** Whether NULL arguments are passed over, so that the result is NULL only if all are. */
  readonly skipsNull?: boolean;
  /** Needs WITHIN GROUP (ORDER BY ...); the ordered expression is checked as the last argument. */
  readonly ordered?: boolean;
  /** Exists only over a window, in a SELECT of one's own. */
  readonly windowOnly?: boolean;
  /** Brings its own order and filter, and takes no others. */
  readonly ordersItself?: boolean;
}

const number = (type: ArgumentType | undefined): boolean =>
  type === "null" || (type !== undefined && type !== "string" && isNumber(type));
const string = (type: ArgumentType | undefined): boolean =>
  type === "text" || type === "string" || type === "null";
const moment = (type: ArgumentType | undefined): boolean =>
  type !== undefined && type !== "string" && type !== "null" && isMoment(type);

/** The common type of several values, as CASE, COALESCE and comparison need it. */
export function unify(types: readonly ArgumentType[]): ValueType | undefined {
  let found: ValueType | undefined;
  for (const type of types) {
    if (type === "null" || type === "string") continue;
    if (found === undefined) found = type;
    else if (!areComparable(found, type)) return undefined;
    else if (isNumber(found) && isNumber(type)) found = widerNumber(found, type);
    else if (found !== type)
      found = found === "timestamptz" || type === "timestamptz" ? "timestamptz" : "timestamp";
  }
  return found ?? "text";
}

function rule(
  usage: string,
  arity: readonly [number, number],
  result: FunctionRule["result"],
  extra: Partial<FunctionRule> = {},
): FunctionRule {
  return { aggregate: false, arity, usage, result, ...extra };
}

const toDouble = (args: readonly ArgumentType[]): ValueType | undefined => {
  if (args.every(number)) {
    if (
      args.some((arg) => arg === "numeric") &&
      !args.some((arg) => arg === "double precision" || arg === "real")
    )
      return "numeric";
    return "double precision";
  }
  return undefined;
};
const sameNumber = (args: readonly ArgumentType[]): ValueType | undefined =>
  args.every(number) ? unify(args) : undefined;
const rounding = (args: readonly ArgumentType[]): ValueType | undefined => {
  if (!number(args[0])) return undefined;
  // PostgreSQL has round(x, digits) for numeric only.
  if (args.length === 2) return isExact(args[0]) && isWhole(args[1]) ? "numeric" : undefined;
  return isExact(args[0]) && args[0] === "numeric" ? "numeric" : "double precision";
};
const isExact = (type: ArgumentType | undefined): boolean => type === "numeric" || isWhole(type);
const isWhole = (type: ArgumentType | undefined): boolean =>
  type !== undefined && type !== "string" && type !== "null" && isInteger(type);
const textOnly = (args: readonly ArgumentType[]): ValueType | undefined =>
  args.every(string) ? "text" : undefined;
const textThenWhole = (args: readonly ArgumentType[]): ValueType | undefined =>
  string(args[0]) && args.slice(1).every(isWhole) ? "text" : undefined;
const any = (args: readonly ArgumentType[]): ValueType | undefined => unify(args);

function aggregate(
  usage: string,
  arity: readonly [number, number],
  result: FunctionRule["result"],
  extra: Partial<FunctionRule> = {},
): FunctionRule {
  return { aggregate: true, arity, usage, result, canInventNull: true, ...extra };
}

const windowed = (
  usage: string,
  arity: readonly [number, number],
  result: FunctionRule["result"],
): FunctionRule => aggregate(usage, arity, result, { windowOnly: true });

const summed = (args: readonly ArgumentType[]): ValueType | undefined => {
  const [type] = args;
  if (!number(type)) return type === "interval" ? "interval" : undefined;
  if (type === "smallint" || type === "integer") return "bigint";
  if (type === "bigint" || type === "numeric") return "numeric";
  return type === "real" ? "real" : "double precision";
};
const averaged = (args: readonly ArgumentType[]): ValueType | undefined => {
  if (!number(args[0])) return args[0] === "interval" ? "interval" : undefined;
  return isExact(args[0]) ? "numeric" : "double precision";
};
const orderable = (args: readonly ArgumentType[]): ValueType | undefined => {
  const [type] = args;
  return type === undefined || type === "json" || type === "other" || type === "boolean" || type === "uuid"
    ? undefined
    : unify([type]);
};

/** Every function an expression may call. What is not here does not exist for a pipeline. */
export const FUNCTIONS: Readonly<Record<string, FunctionRule>> = {
  abs: rule("abs(number)", [1, 1], sameNumber),
  ceil: rule("ceil(number)", [1, 1], rounding),
  floor: rule("floor(number)", [1, 1], rounding),
  round: rule("round(number) or round(numeric, digits)", [1, 2], rounding),
  trunc: rule("trunc(number)", [1, 1], rounding),
  sqrt: rule("sqrt(number)", [1, 1], toDouble),
  exp: rule("exp(number)", [1, 1], toDouble),
  ln: rule("ln(number)", [1, 1], toDouble),
  log: rule("log(number)", [1, 1], toDouble),
  power: rule("power(number, exponent)", [2, 2], toDouble),
  mod: rule("mod(whole, whole)", [2, 2], (args) =>
    args.every((arg) => isExact(arg)) ? unify(args) : undefined,
  ),
  sign: rule("sign(number)", [1, 1], rounding),
  sin: rule("sin(radians)", [1, 1], (args) => (args.every(number) ? "double precision" : undefined)),
  cos: rule("cos(radians)", [1, 1], (args) => (args.every(number) ? "double precision" : undefined)),
  greatest: rule("greatest(value, ...)", [1, 100], any, { skipsNull: true }),
  least: rule("least(value, ...)", [1, 100], any, { skipsNull: true }),
  coalesce: rule("coalesce(value, ...)", [1, 100], any, { skipsNull: true }),
  nullif: rule("nullif(value, value)", [2, 2], any, { canInventNull: true }),
  lower: rule("lower(text)", [1, 1], textOnly),
  upper: rule("upper(text)", [1, 1], textOnly),
  btrim: rule("btrim(text)", [1, 2], textOnly),
  ltrim: rule("ltrim(text)", [1, 2], textOnly),
  rtrim: rule("rtrim(text)", [1, 2], textOnly),
  length: rule("length(text)", [1, 1], (args) => (string(args[0]) ? "integer" : undefined)),
  left: rule("left(text, count)", [2, 2], textThenWhole),
  right: rule("right(text, count)", [2, 2], textThenWhole),
  substr: rule("substr(text, start, count)", [2, 3], textThenWhole),
  replace: rule("replace(text, from, to)", [3, 3], textOnly),
  split_part: rule("split_part(text, delimiter, index)", [3, 3], (args) =>
    string(args[0]) && string(args[1]) && isWhole(args[2]) ? "text" : undefined,
  ),
  strpos: rule("strpos(text, part)", [2, 2], (args) => (args.every(string) ? "integer" : undefined)),
  starts_with: rule("starts_with(text, prefix)", [2, 2], (args) =>
    args.every(string) ? "boolean" : undefined,
  ),
  regexp_group: rule(
    "regexp_group(text, pattern, group)",
    [3, 3],
    (args) => (string(args[0]) && string(args[1]) && isWhole(args[2]) ? "text" : undefined),
    { canInventNull: true },
  ),
  concat: rule("concat(value, ...)", [1, 100], () => "text", { skipsNull: true }),
  date_trunc: rule("date_trunc('day', time)", [2, 2], (args) => {
    if (string(args[0]) && moment(args[1])) {
      if (args[1] === "timestamp") return "timestamp";
      return "timestamptz";
    }
    return undefined;
  }),
  timezone: rule("time AT TIME ZONE 'zone'", [2, 2], (args) => {
    if (string(args[0]) && moment(args[1])) {
      if (args[1] === "timestamptz") return "timestamp";
      return "timestamptz";
    }
    return undefined;
  }),
  make_interval: rule("make_interval(years, months, weeks, days, hours)", [1, 5], (args) =>
    args.every(isWhole) ? "interval" : undefined,
  ),

  count: aggregate("count(*) or count(value)", [0, 1], () => "bigint", {
    canInventNull: false,
    skipsNull: true,
  }),
  sum: aggregate("sum(number)", [1, 1], summed),
  avg: aggregate("avg(number)", [1, 1], averaged),
  min: aggregate("min(value)", [1, 1], orderable),
  max: aggregate("max(value)", [1, 1], orderable),
  stddev_samp: aggregate("stddev_samp(number)", [1, 1], averaged),
  stddev_pop: aggregate("stddev_pop(number)", [1, 1], averaged),
  var_samp: aggregate("var_samp(number)", [1, 1], averaged),
  var_pop: aggregate("var_pop(number)", [1, 1], averaged),
  bool_and: aggregate("bool_and(condition)", [1, 1], (args) =>
    args[0] === "boolean" ? "boolean" : undefined,
  ),
  bool_or: aggregate("bool_or(condition)", [1, 1], (args) => (args[0] === "boolean" ? "boolean" : undefined)),
  percentile_cont: aggregate(
    "percentile_cont(share) WITHIN GROUP (ORDER BY number)",
    [2, 2],
    (args) => {
      if (args.every(number)) return "double precision";
      if (args[1] === "interval") return "interval";
      return undefined;
    },
    { ordered: true },
  ),
  percentile_disc: aggregate(
    "percentile_disc(share) WITHIN GROUP (ORDER BY value)",
    [2, 2],
    (args) => orderable(args.slice(1)),
    { ordered: true },
  ),
  row_number: windowed("row_number() OVER (PARTITION BY ... ORDER BY ...)", [0, 0], () => "bigint"),
  rank: windowed("rank() OVER (ORDER BY ...)", [0, 0], () => "bigint"),
  dense_rank: windowed("dense_rank() OVER (ORDER BY ...)", [0, 0], () => "bigint"),
  lag: windowed("lag(value, rows) OVER (ORDER BY ...)", [1, 2], (args) => unify(args.slice(0, 1))),
  lead: windowed("lead(value, rows) OVER (ORDER BY ...)", [1, 2], (args) => unify(args.slice(0, 1))),
  first_value: windowed("first_value(value) OVER (ORDER BY ...)", [1, 1], any),
  first_by: aggregate("first_by(value, order)", [2, 2], (args) => unify(args.slice(0, 1)), {
    ordersItself: true,
  }),
  last_by: aggregate("last_by(value, order)", [2, 2], (args) => unify(args.slice(0, 1)), {
    ordersItself: true,
  }),
  share: aggregate("share(condition)", [1, 1], (args) =>
    args[0] === "boolean" ? "double precision" : undefined,
  ),
  mode: aggregate("mode() WITHIN GROUP (ORDER BY value)", [1, 1], any, { ordered: true }),
};

/** Fields that EXTRACT accepts. */
export const EXTRACT_FIELDS = [
  "year",
  "quarter",
  "month",
  "week",
  "day",
  "dow",
  "isodow",
  "doy",
  "hour",
  "minute",
  "second",
  "epoch",
] as const;
