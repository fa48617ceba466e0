import type { PrintContext as DialectContext } from "@/core/dialect";
import type { ValueType } from "@/core/value-type";
import { quoteDouble, quoteIdentifier, quoteNumeric, quoteText } from "./quote";
import type { BinaryOperator, Expression, Order } from "@/core/expression/ast";
import { printFrame, printLookup, printNearest, printNumbers, printTerms } from "./special-expressions";

/** How expressions are printed. */
export interface PrintContext extends DialectContext {
  /** SQL that stands for the logical time instead, where it is only known when the statement runs. */
  readonly runTimeSql?: string;
}

const PRECEDENCE: Readonly<Record<BinaryOperator, number>> = {
  or: 1,
  and: 2,
  "=": 4,
  "<>": 4,
  "<": 4,
  "<=": 4,
  ">": 4,
  ">=": 4,
  "is distinct from": 4,
  "is not distinct from": 4,
  "||": 6,
  "+": 7,
  "-": 7,
  "*": 8,
  "/": 8,
  "%": 8,
  "^": 9,
};

/** Functions that are keywords of the grammar: quoting them would name another function. */
const GRAMMAR_FUNCTIONS = new Set(["coalesce", "nullif", "greatest", "least"]);

const SQL_TYPE_NAMES: Readonly<Partial<Record<ValueType, string>>> = {
  json: "jsonb",
  sparse: "double precision[]",
};

/** The SQL name of a type Ravlen can cast to. */
export function sqlType(type: ValueType): string {
  if (type === "other") throw new RangeError("cannot write a cast to an unknown type");
  return SQL_TYPE_NAMES[type] ?? type;
}

function precedence(node: Expression): number {
  switch (node.kind) {
    case "binary":
      return PRECEDENCE[node.operator];
    case "not":
      return 3;
    case "in":
    case "between":
    case "like":
      return 5;
    case "is":
      return 4;
    case "negate":
      return 10;
    default:
      return 11;
  }
}

/** Functions that Ravlen puts together from others, so that a person need not. */
const COMPOSED: Readonly<Record<string, (args: readonly string[]) => string>> = {
  first_by: ([value, order]) =>
    `(array_agg(${value} ORDER BY ${order} ASC NULLS LAST, ${value} ASC) FILTER (WHERE ${value} IS NOT NULL))[1]`,
  last_by: ([value, order]) =>
    `(array_agg(${value} ORDER BY ${order} DESC NULLS FIRST, ${value} DESC) FILTER (WHERE ${value} IS NOT NULL))[1]`,
  distinct_values: ([value]) => `array_agg(DISTINCT ${value})`,
  all_values: ([value]) => `array_agg(${value})`,
  month_text: ([time]) => `to_char(${time}, 'YYYY-MM')`,
  second_largest: (args) =>
    `(SELECT (array_agg(value ORDER BY value DESC))[2] FROM unnest(ARRAY[${args.join(", ")}]) AS value)`,
  distinct_rows: (args) => `count(DISTINCT (${args.join(", ")}))`,
  interpolated_quantiles: (args) =>
    `percentile_cont(ARRAY[${args.slice(0, -1).join(", ")}]) WITHIN GROUP (ORDER BY ${args.at(-1)})`,
  quantiles: (args) =>
    `percentile_disc(ARRAY[${args.slice(0, -1).join(", ")}]) WITHIN GROUP (ORDER BY ${args.at(-1)})`,
  row_hash: (args) => `hash_record_extended(ROW(${args.join(", ")}), 0)`,
  share: ([condition]) => `avg(CAST(CAST(${condition} AS integer) AS double precision))`,
  bitwise_and: ([left, right]) => `(${left} & ${right})`,
  bitwise_xor: ([left, right]) => `(${left} # ${right})`,
  shifted_right: ([value, bits]) => `(${value} >> ${bits})`,
  array_element: ([array, place]) => `(${array})[${place}]`,
  regexp_group: ([value, pattern, group]) => `(regexp_match(${value}, ${pattern}))[${group}]`,
  term_weight: ([vector, term]) => `coalesce((${vector})[array_position(${vector}, ${term}) + 1], 0)`,
};

/** The terms of an ORDER BY clause. Missing values come last. */
export const printOrder = (order: readonly Order[], print: (node: Expression) => string): string =>
  order
    .map(({ expression, descending }) => `${print(expression)} ${descending ? "DESC" : "ASC"} NULLS LAST`)
    .join(", ");

/** Prints an expression as SQL. The result parses back to the same expression. */
export function printExpression(node: Expression, context: PrintContext): string {
  const print = (node: Expression): string => printExpression(node, context);
  const wrap = (node: Expression, least: number): string =>
    precedence(node) < least ? `(${print(node)})` : print(node);
  switch (node.kind) {
    case "literal":
      switch (node.type) {
        case "number":
          return quoteNumeric(node.text);
        case "string":
          return quoteText(node.text);
        case "double":
          return quoteDouble(node.value);
        case "boolean":
          return node.value ? "true" : "false";
        case "null":
          return "NULL";
      }
    case "column":
      return node.relation === undefined
        ? quoteIdentifier(node.name)
        : `${quoteIdentifier(node.relation)}.${quoteIdentifier(node.name)}`;
    case "runTime":
      return context.runTimeSql ?? `${quoteText(context.runTime)}::timestamptz`;
    case "call": {
      // PostgreSQL reads hexadecimal digits as a bit string; only Ravlen's split asks for this.
      const known = COMPOSED[node.name];
      if (known)
        return `${known(node.args.map(print))}${node.filter ? ` FILTER (WHERE ${print(node.filter)})` : ""}`;
      if (node.name === "hex_to_bigint")
        return `CAST(CAST('x' || ${print(node.args[0]!)} AS bit(32)) AS bigint)`;
      const name = GRAMMAR_FUNCTIONS.has(node.name) ? node.name : node.name.toLowerCase();
      const args = node.star ? "*" : `${node.distinct ? "DISTINCT " : ""}${node.args.map(print).join(", ")}`;
      const within = node.withinGroup ? ` WITHIN GROUP (ORDER BY ${print(node.withinGroup)})` : "";
      const filter = node.filter ? ` FILTER (WHERE ${print(node.filter)})` : "";
      return `${name}(${args})${within}${filter}`;
    }
    case "extract":
      return `extract(${node.field} FROM ${print(node.operand)})`;
    case "negate":
      return `-${wrap(node.operand, 11)}`;
    case "not":
      return `NOT ${wrap(node.operand, 4)}`;
    case "binary": {
      const own = PRECEDENCE[node.operator];
      // Comparisons do not associate, so both sides need more than the operator's own strength.
      const left = wrap(node.left, own === 4 ? 5 : own);
      return `${left} ${node.operator.toUpperCase()} ${wrap(node.right, own + 1)}`;
    }
    case "case": {
      const subject = node.subject ? ` ${print(node.subject)}` : "";
      const branches = node.branches
        .map((branch) => ` WHEN ${print(branch.when)} THEN ${print(branch.then)}`)
        .join("");
      return `CASE${subject}${branches}${node.otherwise ? ` ELSE ${print(node.otherwise)}` : ""} END`;
    }
    case "cast":
      return `CAST(${print(node.operand)} AS ${sqlType(node.type)})`;
    case "in":
      return `${wrap(node.operand, 6)} ${node.negated ? "NOT " : ""}IN (${node.values.map(print).join(", ")})`;
    case "between":
      return `${wrap(node.operand, 6)} ${node.negated ? "NOT " : ""}BETWEEN ${wrap(node.low, 6)} AND ${wrap(node.high, 6)}`;
    case "is":
      return `${wrap(node.operand, 6)} IS ${node.negated ? "NOT " : ""}${node.test.toUpperCase()}`;
    case "lookup":
      return printLookup(node, print);
    case "window": {
      const by = node.by.length > 0 ? [`PARTITION BY ${node.by.map(print).join(", ")}`] : [];
      const order = node.order.length > 0 ? [`ORDER BY ${printOrder(node.order, print)}`] : [];
      return `${print(node.call)} OVER (${[...by, ...order, ...(node.frame ? [printFrame(node.frame)] : [])].join(" ")})`;
    }
    case "nearest":
      return printNearest(node, print);
    case "terms":
      return printTerms(print(node.operand), node.weights);
    case "bin":
      return node.cuts.length === 0
        ? "0"
        : `width_bucket(${print(node.operand)}, ${printNumbers(node.cuts)})`;
    case "element":
      return `(${printNumbers(node.values)})[${print(node.place)}]`;
    case "like":
      return `${wrap(node.operand, 6)} ${node.negated ? "NOT " : ""}${node.ignoreCase ? "ILIKE" : "LIKE"} ${wrap(node.pattern, 6)}`;
  }
}
