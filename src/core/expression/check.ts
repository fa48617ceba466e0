import { suggestion } from "../nearest";
import { failure, problem, success, type Problem, type Result } from "../problem";
import { isInteger, isMoment, isNumber, widerNumber, type ValueType } from "../value-type";
import { FUNCTIONS, unify, type ArgumentType } from "./functions";
import { fromOtherSide } from "./sides";
import type { Call, Expression } from "./ast";

/** What the checker needs to know of a column. */
export interface ColumnFacts {
  readonly name: string;
  readonly type: ValueType;
  readonly nullable: boolean;
}

export interface CheckOptions {
  readonly columns: ReadonlyMap<string, ColumnFacts>;
  /** Whether aggregate functions may be called (in measures) or not (everywhere else). */
  readonly aggregates: "required" | "forbidden";
  /** Whether the expression is the call of a window, where ranks and neighbours exist. */
  readonly inWindow?: boolean;
}

export interface CheckedExpression {
  readonly type: ValueType;
  readonly nullable: boolean;
}

interface Typed {
  readonly type: ArgumentType;
  readonly nullable: boolean;
  readonly aggregate: boolean;
  /** Whether a column is read outside any aggregate. */
  readonly loose: boolean;
}

/**
 * Checks columns, functions and types, and derives the type and nullability of the result.
 * Reports every problem it can find, each with its offset.
 */
export function checkExpression(expression: Expression, options: CheckOptions): Result<CheckedExpression> {
  const checker = new Checker(options);
  const typed = checker.visit(expression);
  if (
    options.aggregates === "required" &&
    checker.problems.length === 0 &&
    (!typed.aggregate || typed.loose)
  ) {
    checker.report(
      expression,
      "measure_not_aggregated",
      "A measure must aggregate every column it reads.",
      "Wrap the column in count(), sum(), avg(), min(), max() or the like.",
    );
  }
  if (checker.problems.length > 0) return failure(...checker.problems);
  const type: ValueType = typed.type === "null" || typed.type === "string" ? "text" : typed.type;
  return success({ type, nullable: typed.nullable });
}

class Checker {
  readonly problems: Problem[] = [];
  constructor(private readonly options: CheckOptions) {}

  report(node: Expression, code: string, message: string, hint?: string): Typed {
    this.problems.push(problem(code, message, hint, { offset: node.at ?? 0 }));
    return { type: "null", nullable: true, aggregate: false, loose: false };
  }

  private merge(
    type: ArgumentType,
    parts: readonly Typed[],
    nullable = parts.some((part) => part.nullable),
  ): Typed {
    return {
      type,
      nullable,
      aggregate: parts.some((part) => part.aggregate),
      loose: parts.some((part) => part.loose),
    };
  }

  visit(node: Expression): Typed {
    const plain = { aggregate: false, loose: false };
    switch (node.kind) {
      case "literal":
        switch (node.type) {
          case "number":
            return { ...plain, type: literalNumberType(node.text), nullable: false };
          case "double":
            return { ...plain, type: "double precision", nullable: false };
          case "string":
            return { ...plain, type: "string", nullable: false };
          case "boolean":
            return { ...plain, type: "boolean", nullable: false };
          case "null":
            return { ...plain, type: "null", nullable: true };
        }
      case "column": {
        const found = this.options.columns.get(node.name);
        if (!found)
          return this.report(
            node,
            "unknown_column",
            `There is no column "${fromOtherSide(node.name) ?? node.name}" here.`,
            suggestion(node.name, this.options.columns.keys(), "column"),
          );
        return { type: found.type, nullable: found.nullable, aggregate: false, loose: true };
      }
      case "runTime":
        return { ...plain, type: "timestamptz", nullable: false };
      case "call":
        return this.call(node);
      case "extract": {
        const operand = this.visit(node.operand);
        if (!this.fits(operand.type, (type) => isMoment(type) || type === "interval" || type === "time")) {
          return this.clash(
            node,
            `extract(${node.field} from ...) needs a date, a time or an interval, not ${operand.type}.`,
          );
        }
        return this.merge("numeric", [operand]);
      }
      case "negate": {
        const operand = this.visit(node.operand);
        if (!this.fits(operand.type, (type) => isNumber(type) || type === "interval"))
          return this.clash(node, `- needs a number, not ${operand.type}.`);
        return operand;
      }
      case "not": {
        const operand = this.visit(node.operand);
        if (!this.fits(operand.type, (type) => type === "boolean"))
          return this.clash(node, `NOT needs a condition, not ${operand.type}.`);
        return this.merge("boolean", [operand]);
      }
      case "binary":
        return this.binary(node);
      case "case":
        return this.caseOf(node);
      case "cast": {
        const operand = this.visit(node.operand);
        if (node.operand.kind === "literal" && node.operand.type === "string")
          this.checkLiteral(node.operand, node.operand.text, node.type);
        return this.merge(node.type, [operand]);
      }
      case "in":
        return this.compare(node, [node.operand, ...node.values]);
      case "between":
        return this.compare(node, [node.operand, node.low, node.high]);
      case "is": {
        const operand = this.visit(node.operand);
        if (node.test !== "null" && !this.fits(operand.type, (type) => type === "boolean"))
          return this.clash(node, `IS ${node.test.toUpperCase()} needs a condition, not ${operand.type}.`);
        return this.merge("boolean", [operand], false);
      }
      case "lookup":
        return this.merge(node.type, [this.visit(node.operand)], false);
      case "window": {
        const parts = [...node.by, ...node.order.map((order) => order.expression)].map((node) =>
          this.visit(node),
        );
        const inner = this.windowed(node.call);
        return {
          type: inner.type,
          nullable: true,
          aggregate: parts.some((part) => part.aggregate),
          loose: true,
        };
      }
      case "nearest":
        return this.merge(
          "sparse",
          [...node.numbers, ...node.categories].map((number) => this.visit(number.value)),
          false,
        );
      case "terms":
        return this.merge("sparse", [this.visit(node.operand)]);
      case "bin":
        return this.merge("integer", [this.visit(node.operand)]);
      case "element":
        return { ...this.merge("double precision", [this.visit(node.place)]), nullable: true };
      case "like": {
        const parts = [this.visit(node.operand), this.visit(node.pattern)];
        if (!parts.every((part) => this.fits(part.type, (type) => type === "text")))
          return this.clash(node, "LIKE compares text with a text pattern.");
        return this.merge("boolean", parts);
      }
    }
  }

  /** The call of a window: an aggregate, whatever aggregates may do elsewhere. */
  private windowed(node: Expression): Typed {
    const inner = new Checker({ columns: this.options.columns, aggregates: "required", inWindow: true });
    const typed = inner.visit(node);
    this.problems.push(...inner.problems);
    return typed;
  }

  private clash(node: Expression, message: string): Typed {
    return this.report(
      node,
      "type_clash",
      message,
      "Convert one side with CAST(... AS type), or use another column.",
    );
  }

  private fits(type: ArgumentType, test: (type: ValueType) => boolean): boolean {
    return type === "null" || type === "string" || test(type);
  }

  private caseOf(node: Extract<Expression, { kind: "case" }>): Typed {
    const subject = node.subject ? this.visit(node.subject) : undefined;
    const conditions = node.branches.map((branch) => this.visit(branch.when));
    const results = [
      ...node.branches.map((branch) => branch.then),
      ...(node.otherwise ? [node.otherwise] : []),
    ].map((node) => this.visit(node));
    for (const [index, condition] of conditions.entries()) {
      const good = subject
        ? unify([subject.type, condition.type]) !== undefined
        : this.fits(condition.type, (type) => type === "boolean");
      if (!good)
        return this.clash(
          node.branches[index]!.when,
          "This WHEN must be a condition, or of the type that CASE compares.",
        );
    }
    const type = unify(results.map((result) => result.type));
    if (!type) return this.clash(node, "The results of this CASE have incompatible types.");
    const nullable = node.otherwise === undefined || results.some((result) => result.nullable);
    return this.merge(type, [...conditions, ...results, ...(subject ? [subject] : [])], nullable);
  }

  private compare(node: Expression, parts: readonly Expression[]): Typed {
    const typed = parts.map((part) => this.visit(part));
    const type = unify(typed.map((operand) => operand.type));
    if (!type)
      return this.clash(
        node,
        `Values of types ${[...new Set(typed.map((operand) => operand.type))].join(" and ")} cannot be compared.`,
      );
    for (const part of parts)
      if (part.kind === "literal" && part.type === "string") this.checkLiteral(part, part.text, type);
    return this.merge("boolean", typed);
  }

  /** A bare literal takes the type of what it is compared with; say so now, not at night. */
  private checkLiteral(node: Expression, value: string, type: ValueType): void {
    const bad =
      (isNumber(type) && (value.trim() === "" || Number.isNaN(Number(value)))) ||
      (isMoment(type) && Number.isNaN(Date.parse(value)) && !/^\d{4}-\d{2}-\d{2}/.test(value)) ||
      (type === "boolean" && !/^(t|f|true|false|yes|no|on|off|1|0)$/i.test(value.trim()));
    if (bad)
      this.report(
        node,
        "type_clash",
        `'${value.slice(0, 40)}' is not a ${type}.`,
        "Correct the value, or compare with a column of its type.",
      );
  }

  private binary(node: Extract<Expression, { kind: "binary" }>): Typed {
    switch (node.operator) {
      case "and":
      case "or": {
        const parts = [this.visit(node.left), this.visit(node.right)];
        const wrong = parts.findIndex((part) => !this.fits(part.type, (type) => type === "boolean"));
        if (wrong >= 0)
          return this.clash(
            wrong === 0 ? node.left : node.right,
            `${node.operator.toUpperCase()} needs conditions on both sides, not ${parts[wrong]!.type}.`,
          );
        return this.merge("boolean", parts);
      }
      case "is distinct from":
      case "is not distinct from":
        return { ...this.compare(node, [node.left, node.right]), nullable: false };
      case "=":
      case "<>":
      case "<":
      case "<=":
      case ">":
      case ">=":
        return this.compare(node, [node.left, node.right]);
      case "||": {
        const parts = [this.visit(node.left), this.visit(node.right)];
        if (!parts.some((part) => part.type === "text" || part.type === "string"))
          return this.clash(node, "|| concatenates text; at least one side must be text.");
        return this.merge("text", parts);
      }
      default: {
        const parts = [this.visit(node.left), this.visit(node.right)];
        const type = arithmetic(node.operator, parts[0]!.type, parts[1]!.type);
        if (!type)
          return this.clash(node, `${parts[0]!.type} ${node.operator} ${parts[1]!.type} is not defined.`);
        return this.merge(type, parts);
      }
    }
  }

  private call(node: Call): Typed {
    const rule = FUNCTIONS[node.name];
    if (!rule)
      return this.report(
        node,
        "unknown_function",
        `The function ${node.name}() is not available.`,
        suggestion(node.name, [...Object.keys(FUNCTIONS), "run_time"], "function"),
      );
    if (rule.windowOnly && !this.options.inWindow)
      return this.report(node, "window_only", `${node.name}() needs a window: it is used as ${rule.usage}.`);
    const inputs = node.withinGroup ? [...node.args, node.withinGroup] : node.args;
    const typed = inputs.map((input) => this.visit(input));
    const filter = node.filter ? this.visit(node.filter) : undefined;
    if (filter && !this.fits(filter.type, (type) => type === "boolean"))
      return this.clash(node.filter ?? node, "FILTER (WHERE ...) needs a condition.");
    if (rule.aggregate && this.options.aggregates === "forbidden") {
      return this.report(
        node,
        "aggregate_here",
        `${node.name}() aggregates many rows, and only measures of an aggregate step may do that.`,
        "Add an aggregate step, or compute it there.",
      );
    }
    if (!rule.aggregate && (node.distinct || node.star || filter))
      return this.report(
        node,
        "expression_unsupported",
        `${node.name}() is not an aggregate and takes no DISTINCT, * or FILTER.`,
      );
    if (rule.ordersItself && (node.distinct || filter))
      return this.report(
        node,
        "expression_unsupported",
        `${node.name}() takes no DISTINCT or FILTER.`,
        "Filter the rows in an earlier step.",
      );
    if (rule.aggregate && typed.some((operand) => operand.aggregate))
      return this.report(node, "aggregate_nested", "Aggregates cannot be nested.");
    const [least, most] = rule.arity;
    const starred = node.star === true && node.name === "count";
    const wrongOrder = (rule.ordered === true) !== (node.withinGroup !== undefined);
    if (
      (!starred &&
        (inputs.length < Math.max(least, node.name === "count" ? 1 : 0) || inputs.length > most)) ||
      wrongOrder ||
      (node.star && !starred)
    ) {
      return this.report(node, "wrong_arguments", `${node.name}() is used as ${rule.usage}.`);
    }
    const type = rule.result(typed.map((operand) => operand.type));
    if (!type)
      return this.report(
        node,
        "type_clash",
        `${node.name}() does not take ${typed.map((operand) => operand.type).join(", ")}; it is used as ${rule.usage}.`,
        "Convert the argument with CAST(... AS type).",
      );
    const nullable =
      rule.canInventNull === true ||
      (rule.skipsNull
        ? typed.length > 0 && !rule.aggregate && typed.every((operand) => operand.nullable)
        : typed.some((operand) => operand.nullable));
    return {
      type,
      nullable,
      aggregate: rule.aggregate || typed.some((operand) => operand.aggregate),
      loose: !rule.aggregate && typed.some((operand) => operand.loose),
    };
  }
}

function literalNumberType(text: string): ValueType {
  if (!/^-?\d+$/.test(text)) return "numeric";
  const value = BigInt(text);
  if (value >= -2147483648n && value <= 2147483647n) return "integer";
  return value >= -(2n ** 63n) && value < 2n ** 63n ? "bigint" : "numeric";
}

/** Result type of + - * / % ^ over numbers, moments and intervals, as PostgreSQL defines them. */
function arithmetic(operator: string, left: ArgumentType, right: ArgumentType): ValueType | undefined {
  if (left === "string" || right === "string") return undefined;
  if (left === "null" || right === "null") {
    if (left === "null") {
      if (right === "null") return "text";
      return right;
    }
    return left;
  }
  if (isNumber(left) && isNumber(right)) {
    if (operator === "%")
      return left === "numeric" || right === "numeric" || (isInteger(left) && isInteger(right))
        ? widerNumber(left, right)
        : undefined;
    if (operator === "^")
      return [left, right].includes("numeric") &&
        ![left, right].some((text) => text === "real" || text === "double precision")
        ? "numeric"
        : "double precision";
    return widerNumber(left, right);
  }
  if (left === "interval" && isNumber(right) && (operator === "*" || operator === "/")) return "interval";
  if (isNumber(left) && right === "interval" && operator === "*") return "interval";
  if (left === "interval" && right === "interval" && (operator === "+" || operator === "-"))
    return "interval";
  if (isMoment(left) && right === "interval" && (operator === "+" || operator === "-"))
    return left === "date" ? "timestamp" : left;
  if (left === "interval" && isMoment(right) && operator === "+")
    return right === "date" ? "timestamp" : right;
  if (left === "date" && right === "date" && operator === "-") return "integer";
  if (left === "date" && isInteger(right) && (operator === "+" || operator === "-")) return "date";
  if (isMoment(left) && isMoment(right) && operator === "-") return "interval";
  return undefined;
}
