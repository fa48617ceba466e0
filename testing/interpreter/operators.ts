import type { BinaryOperator } from "@/core/expression/ast";
import { unify, type ArgumentType } from "@/core/expression/functions";
import type { ValueType } from "@/core/value-type";
import type { Compiled } from "./compiled";
import { divisionByZero, outOfRange } from "./failure";
import * as exact from "./numeric";
import { exactPower, power } from "./power";
import type { Numeric } from "./numeric";
import { addInterval, between, type Interval } from "./times";
import {
  castValue,
  compareValues,
  concatText,
  inRange,
  isDouble,
  isMoment,
  isWhole,
  type Type,
  type Value,
} from "./values";

/** The same value as another type. */
export function castTo(compiled: Compiled, to: Type): Compiled {
  if (compiled.type === to) return { type: to, at: compiled.at };
  return { type: to, at: (place) => castValue(compiled.at(place), compiled.type, to) };
}

const argumentOf = ({ type, bare }: Compiled): ArgumentType => {
  if (type === "unknown") return "null";
  return bare ? "string" : type;
};

/** Several expressions as one type, as CASE, COALESCE and comparisons need it. */
export function asOneType(parts: readonly Compiled[]): readonly Compiled[] {
  const type: ValueType = unify(parts.map(argumentOf)) ?? "text";
  return parts.map((part) => castTo(part, type));
}

/** Computes from values that are there; NULL when one is missing. */
export const strict =
  (parts: readonly Compiled[], compute: (...values: readonly Value[]) => Value): Compiled["at"] =>
  (place) => {
    const values = parts.map((part) => part.at(place));
    return values.includes(null) ? null : compute(...values);
  };

/** False, or true, wins over what is missing; the right side is not looked at once the left one has decided. */
const decided =
  (left: Compiled, right: Compiled, winner: boolean): Compiled["at"] =>
  (place) => {
    const one = left.at(place);
    if (one === winner) return winner;
    const other = right.at(place);
    if (other === winner) return winner;
    return one === null || other === null ? null : !winner;
  };

const HOLDS: Readonly<Record<string, (order: number) => boolean>> = {
  "=": (order) => order === 0,
  "<>": (order) => order !== 0,
  "<": (order) => order < 0,
  "<=": (order) => order <= 0,
  ">": (order) => order > 0,
  ">=": (order) => order >= 0,
};

/** How two expressions compare. */
export function comparison(operator: string, left: Compiled, right: Compiled): Compiled {
  const [one, other] = asOneType([left, right]) as [Compiled, Compiled];
  const holds = HOLDS[operator]!;
  return {
    type: "boolean",
    at: strict([one, other], (first, second) => holds(compareValues(one.type, first!, second!))),
  };
}

function distinct(left: Compiled, right: Compiled, negated: boolean): Compiled {
  const [one, other] = asOneType([left, right]) as [Compiled, Compiled];
  return {
    type: "boolean",
    at: (place) => {
      const [first, second] = [one.at(place), other.at(place)];
      const differ =
        first === null || second === null ? first !== second : compareValues(one.type, first, second) !== 0;
      return differ !== negated;
    },
  };
}

type Whole = (left: bigint, right: bigint) => bigint;
const WHOLE: Readonly<Partial<Record<BinaryOperator, Whole>>> = {
  "+": (left, right) => left + right,
  "-": (left, right) => left - right,
  "*": (left, right) => left * right,
  "/": (left, right) => {
    if (right === 0n) throw divisionByZero();
    return left / right;
  },
  "%": (left, right) => {
    if (right === 0n) throw divisionByZero();
    return left % right;
  },
};

const EXACT: Readonly<Partial<Record<BinaryOperator, (left: Numeric, right: Numeric) => Numeric>>> = {
  "+": exact.add,
  "-": exact.subtract,
  "*": exact.multiply,
  "/": exact.divide,
  "%": exact.remainder,
  "^": exactPower,
};

/** A result of doubles: neither endless nor nothing where its operands are neither. */
function checkDouble(result: number, left: number, right: number, mayVanish: boolean): number {
  if (!Number.isFinite(result) && Number.isFinite(left) && Number.isFinite(right)) throw outOfRange();
  if (result === 0 && !mayVanish) throw outOfRange();
  return result;
}

const DOUBLE: Readonly<Partial<Record<BinaryOperator, (left: number, right: number) => number>>> = {
  "+": (left, right) => checkDouble(left + right, left, right, true),
  "-": (left, right) => checkDouble(left - right, left, right, true),
  "*": (left, right) => checkDouble(left * right, left, right, left === 0 || right === 0),
  "/": (left, right) => {
    if (right === 0 && !Number.isNaN(left)) throw divisionByZero();
    return checkDouble(left / right, left, right, left === 0 || !Number.isFinite(right));
  },
  "^": power,
};

const wider = (left: Type, right: Type): Type => {
  if (isDouble(left) || isDouble(right))
    return left === "real" && right === "real" ? "real" : "double precision";
  if (left === "numeric" || right === "numeric") return "numeric";
  const order: readonly Type[] = ["smallint", "integer", "bigint"];
  return order[Math.max(order.indexOf(left), order.indexOf(right))] ?? "integer";
};

function arithmetic(operator: BinaryOperator, left: Compiled, right: Compiled): Compiled {
  const known = (compiled: Compiled, other: Compiled): Type =>
    compiled.type === "unknown" || compiled.bare ? other.type : compiled.type;
  const common = wider(known(left, right), known(right, left));
  const type = operator === "^" && isWhole(common) ? "double precision" : common;
  const parts = [castTo(left, type), castTo(right, type)];
  if (isWhole(type)) {
    const compute = WHOLE[operator]!;
    return {
      type,
      at: strict(parts, (one, other) => inRange(type, compute(one as bigint, other as bigint))),
    };
  }
  if (type === "numeric") {
    const compute = EXACT[operator]!;
    return { type, at: strict(parts, (one, other) => compute(one as Numeric, other as Numeric) as Value) };
  }
  const compute = DOUBLE[operator]!;
  return { type, at: strict(parts, (one, other) => compute(one as number, other as number)) };
}

const negated = ({ months, days, micros }: Interval): Interval => ({
  months: -months,
  days: -days,
  micros: -micros,
});

function scaled({ months, days, micros }: Interval, factor: number): Interval {
  return {
    months: months * factor,
    days: days * factor,
    micros: BigInt(Math.round(Number(micros) * factor)),
  };
}

/** Sums, differences and products with moments and intervals; undefined for numbers. */
function temporal(operator: BinaryOperator, left: Compiled, right: Compiled): Compiled | undefined {
  const parts = [left, right];
  if (left.type === "date" && isWhole(right.type))
    return {
      type: "date",
      at: strict(parts, (day, count) =>
        operator === "+" ? (day as bigint) + (count as bigint) : (day as bigint) - (count as bigint),
      ),
    };
  if (left.type === "date" && right.type === "date")
    return { type: "integer", at: strict(parts, (one, other) => (one as bigint) - (other as bigint)) };
  if (isMoment(left.type) && right.type === "interval") {
    const moment = left.type === "date" ? castTo(left, "timestamp") : left;
    return {
      type: moment.type,
      at: strict([moment, right], (one, other) =>
        addInterval(one as bigint, operator === "-" ? negated(other as Interval) : (other as Interval)),
      ),
    };
  }
  if (isMoment(left.type) && isMoment(right.type)) {
    const same = asOneType(parts);
    return {
      type: "interval",
      at: strict(same, (one, other) => between(one as bigint, other as bigint)),
    };
  }
  if (left.type === "interval" && !["interval", "unknown"].includes(right.type))
    return {
      type: "interval",
      at: strict([left, castTo(right, "double precision")], (interval, factor) =>
        scaled(interval as Interval, factor as number),
      ),
    };
  return undefined;
}

/** Two expressions with an operator between them. */
export function operation(operator: BinaryOperator, left: Compiled, right: Compiled): Compiled {
  switch (operator) {
    case "and":
      return { type: "boolean", at: decided(left, right, false) };
    case "or":
      return { type: "boolean", at: decided(left, right, true) };
    case "is distinct from":
    case "is not distinct from":
      return distinct(left, right, operator === "is not distinct from");
    case "||":
      return {
        type: "text",
        at: strict([left, right], (one, other) => {
          const text = (compiled: Compiled, value: Value): string =>
            compiled.type === "boolean" ? String(value) : concatText(compiled.type, value);
          return text(left, one!) + text(right, other!);
        }),
      };
    default:
      if (operator in HOLDS) return comparison(operator, left, right);
      return temporal(operator, left, right) ?? arithmetic(operator, left, right);
  }
}
