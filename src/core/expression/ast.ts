import type { ValueType } from "../value-type";

/** Binary operators a user may write; all of them exist in standard SQL or are PostgreSQL's everyday ones. */
export type BinaryOperator =
  | "+"
  | "-"
  | "*"
  | "/"
  | "%"
  | "^"
  | "||"
  | "="
  | "<>"
  | "<"
  | "<="
  | ">"
  | ">="
  | "is distinct from"
  | "is not distinct from"
  | "and"
  | "or";

export type LookupType = "double precision" | "text";

export interface Order {
  readonly expression: Expression;
  readonly descending?: boolean;
}

/**
 * Which rows of its partition an aggregate sees. All but "lags" exclude rows at the very moment of the row itself,
 * so that a row never sees its own time. `moments` counts different values of the order column, not rows.
 */
export type WindowFrame =
  | { readonly kind: "earlier times"; readonly moments: number }
  | { readonly kind: "previous time"; readonly moments: number }
  | { readonly kind: "span before"; readonly interval: string }
  | { readonly kind: "all before" };

/**
 * How a text becomes a sparse vector: lower-case words (runs of letters and digits) and runs of up to `longest` words,
 * looked up in a vocabulary. The vector is an array of pairs: minus the term's number (from 1), then its weight.
 */
export interface TermWeights {
  readonly longest: number;
  readonly vocabulary: readonly { readonly term: string; readonly weight: number }[];
  /** count: how often; presence: 1. Either is multiplied by the term's weight. */
  readonly measure: "count" | "presence";
}

/**
 * A search for the k nearest among rows that are constants of the statement; the result is an array of numbers:
 * the share of each class among them, or their mean answer when there are no classes. Of equal distances the
 * earlier row is nearer.
 */
export interface NearestSearch {
  /** Squared differences add up. */
  readonly numbers: readonly { readonly value: Expression; readonly among: readonly number[] }[];
  /** A difference adds 1. */
  readonly categories: readonly { readonly value: Expression; readonly among: readonly (string | null)[] }[];
  readonly answers: readonly number[];
  readonly k: number;
  readonly classes: number;
  /** Neighbours count 1 / (distance + near); all the same when undefined. */
  readonly near: number | undefined;
}

interface Placed {
  /** Character offset in the text the expression was written in, for error messages. */
  readonly at?: number;
}

/**
 * An SQL scalar or aggregate expression as data. Text from a user becomes this, is checked as this,
 * and is printed again from this; there is no other way into a statement.
 */
export type Expression = Placed &
  (
    | { readonly kind: "literal"; readonly type: "number"; readonly text: string }
    | { readonly kind: "literal"; readonly type: "string"; readonly text: string }
    | { readonly kind: "literal"; readonly type: "double"; readonly value: number }
    | { readonly kind: "literal"; readonly type: "boolean"; readonly value: boolean }
    | { readonly kind: "literal"; readonly type: "null" }
    | { readonly kind: "column"; readonly name: string; readonly relation?: string }
    | { readonly kind: "runTime" }
    | {
        readonly kind: "call";
        readonly name: string;
        readonly args: readonly Expression[];
        readonly distinct?: boolean;
        readonly star?: boolean;
        readonly filter?: Expression;
        /** ORDER BY of an ordered-set aggregate such as percentile_cont. */
        readonly withinGroup?: Expression;
      }
    | { readonly kind: "extract"; readonly field: string; readonly operand: Expression }
    | { readonly kind: "negate"; readonly operand: Expression }
    | { readonly kind: "not"; readonly operand: Expression }
    | {
        readonly kind: "binary";
        readonly operator: BinaryOperator;
        readonly left: Expression;
        readonly right: Expression;
      }
    | {
        readonly kind: "case";
        readonly subject?: Expression;
        readonly branches: readonly { readonly when: Expression; readonly then: Expression }[];
        readonly otherwise?: Expression;
      }
    | { readonly kind: "cast"; readonly operand: Expression; readonly type: ValueType }
    | {
        readonly kind: "in";
        readonly operand: Expression;
        readonly values: readonly Expression[];
        readonly negated: boolean;
      }
    | {
        readonly kind: "between";
        readonly operand: Expression;
        readonly low: Expression;
        readonly high: Expression;
        readonly negated: boolean;
      }
    | {
        readonly kind: "is";
        readonly operand: Expression;
        readonly test: "null" | "true" | "false";
        readonly negated: boolean;
      }
    /**
     * A number or text for each known text, one for NULL and one for every other text; printed as CASE or, when long,
     * as a search in a JSON constant. Only Ravlen writes it (codes, coefficients, learned values of categories).
     */
    | {
        readonly kind: "lookup";
        readonly operand: Expression;
        readonly entries: readonly (readonly [string, number | string])[];
        readonly missing: Expression;
        readonly otherwise: Expression;
        readonly type: LookupType;
      }
    /** An aggregate over rows around the row, in an order. Only Ravlen's steps and a SELECT of one's own write it. */
    | {
        readonly kind: "window";
        readonly call: Expression;
        readonly by: readonly Expression[];
        readonly order: readonly Order[];
        readonly frame?: WindowFrame;
      }
    /** The learned words of a text, as a sparse vector: see {@link TermWeights}. Only Ravlen writes it. */
    | { readonly kind: "terms"; readonly operand: Expression; readonly weights: TermWeights }
    /** The answers of the nearest among constant rows: see {@link NearestSearch}. Only Ravlen writes it. */
    | ({ readonly kind: "nearest" } & NearestSearch)
    /**
     * How many of some ascending cuts are at most a number, from 0; NaN lies above every cut. Only Ravlen writes
     * it.
     */
    | { readonly kind: "bin"; readonly operand: Expression; readonly cuts: readonly number[] }
    /** The number at a place, from 1, in a list; NULL where there is none. Only Ravlen writes it. */
    | { readonly kind: "element"; readonly place: Expression; readonly values: readonly number[] }
    | {
        readonly kind: "like";
        readonly operand: Expression;
        readonly pattern: Expression;
        readonly negated: boolean;
        readonly ignoreCase: boolean;
      }
  );

export type Call = Extract<Expression, { kind: "call" }>;

/** Short constructors for expressions that Ravlen itself writes. */
export const column = (name: string, relation?: string): Expression =>
  relation === undefined ? { kind: "column", name } : { kind: "column", name, relation };
export const double = (value: number): Expression => ({ kind: "literal", type: "double", value });
export const integer = (value: number): Expression => ({
  kind: "literal",
  type: "number",
  text: String(Math.trunc(value)),
});
export const text = (value: string): Expression => ({ kind: "literal", type: "string", text: value });
export const truth = (value: boolean): Expression => ({ kind: "literal", type: "boolean", value });
export const NULL: Expression = { kind: "literal", type: "null" };
export const call = (name: string, ...args: readonly Expression[]): Call => ({ kind: "call", name, args });
/** The number of rows. */
export const countRows: Call = { ...call("count"), star: true };
/** The sum of an expression over all rows. */
export const sum = (operand: Expression): Call => call("sum", operand);
/** The sum of an expression over the rows for which a condition is true; NULL when there is none. */
export const sumWhere = (operand: Expression, condition: Expression): Call => ({
  ...sum(operand),
  filter: condition,
});
/** The number of rows for which a condition is true. */
export const countWhere = (condition: Expression): Call => ({ ...countRows, filter: condition });
export const cast = (operand: Expression, type: ValueType): Expression => ({ kind: "cast", operand, type });
export const asDouble = (operand: Expression): Expression => cast(operand, "double precision");
export const binary = (left: Expression, operator: BinaryOperator, right: Expression): Expression => ({
  kind: "binary",
  operator,
  left,
  right,
});
export const isNull = (operand: Expression): Expression => ({
  kind: "is",
  operand,
  test: "null",
  negated: false,
});
export const isNotNull = (operand: Expression): Expression => ({
  kind: "is",
  operand,
  test: "null",
  negated: true,
});
export const when = (condition: Expression, then: Expression, otherwise: Expression): Expression => ({
  kind: "case",
  branches: [{ when: condition, then }],
  otherwise,
});

/** Joins conditions with AND; an empty list is TRUE. */
export function allOf(conditions: readonly Expression[]): Expression {
  return (
    conditions.reduce<Expression | undefined>(
      (left, right) => (left ? binary(left, "and", right) : right),
      undefined,
    ) ?? truth(true)
  );
}

/** Adds terms from left to right, so that rounding is the same wherever the sum is computed. */
export function sumOf(terms: readonly Expression[]): Expression {
  return (
    terms.reduce<Expression | undefined>(
      (left, right) => (left ? binary(left, "+", right) : right),
      undefined,
    ) ?? double(0)
  );
}
