import type { Expression } from "@/core/expression/ast";
import { aggregateOver, AGGREGATES } from "./aggregates";
import type { Column, Compiled } from "./compiled";
import { SCALARS } from "./functions";
import { negate, parseNumeric, type Numeric } from "./numeric";
import { asOneType, castTo, comparison, operation, strict } from "./operators";
import { nearestOf, termsOf } from "./special";
import { DAY, dayOf, fieldsOf, isoDay, isoWeek, parseMoment, daysOf, type Interval } from "./times";
import { compareValues, isWhole, type Type, type Value } from "./values";
import { partitionsOf, RANKS, rowsInFrame, type Partition, type WindowOrder } from "./windows";

const MILLION = 1_000_000n;
const exactOf = (units: bigint, scale = 0): Value => ({ units, scale });

/** A field of a local time. */
function fieldOf(field: string, local: bigint): Value {
  const { year, month, day, micros } = fieldsOf(local);
  const days = dayOf(local);
  const fields: Readonly<Record<string, () => Value>> = {
    year: () => exactOf(BigInt(year > 0 ? year : year - 1)),
    quarter: () => exactOf(BigInt(Math.ceil(month / 3))),
    month: () => exactOf(BigInt(month)),
    week: () => exactOf(BigInt(isoWeek(days)[1])),
    day: () => exactOf(BigInt(day)),
    dow: () => exactOf(BigInt(isoDay(days) % 7)),
    isodow: () => exactOf(BigInt(isoDay(days))),
    doy: () => exactOf(BigInt(days - daysOf(year, 1, 1) + 1)),
    hour: () => exactOf(micros / (3600n * MILLION)),
    minute: () => exactOf((micros / (60n * MILLION)) % 60n),
    second: () => exactOf(micros % (60n * MILLION), 6),
    epoch: () => exactOf(local, 6),
  };
  return fields[field]!();
}

function fieldOfInterval(field: string, { months, days, micros }: Interval): Value {
  const years = Math.trunc(months / 12);
  const fields: Readonly<Record<string, () => Value>> = {
    year: () => exactOf(BigInt(years)),
    month: () => exactOf(BigInt(months % 12)),
    day: () => exactOf(BigInt(days)),
    hour: () => exactOf(micros / (3600n * MILLION)),
    minute: () => exactOf((micros / (60n * MILLION)) % 60n),
    second: () => exactOf(micros % (60n * MILLION), 6),
    epoch: () =>
      exactOf(
        (BigInt(years) * 31_557_600n + BigInt(months % 12) * 2_592_000n + BigInt(days) * 86_400n) * MILLION +
          micros,
        6,
      ),
  };
  return fields[field]!();
}

/** A pattern of LIKE as a regular expression. */
function likePattern(pattern: string, ignoreCase: boolean): RegExp {
  const parts = [...pattern.matchAll(/\\(.)|%|_|([^\\%_])/gsu)].map(([whole, escaped, plain]) => {
    if (whole === "%") return ".*";
    if (whole === "_") return ".";
    return (escaped ?? plain ?? "").replace(/[.*+?^${}()|[\]\\/]/g, "\\$&");
  });
  return new RegExp(`^${parts.join("")}$`, ignoreCase ? "isu" : "su");
}

const literalType = (text: string): Type => {
  if (!/^-?\d+$/.test(text)) return "numeric";
  const size = BigInt(text.replace("-", ""));
  if (size < 2n ** 31n) return "integer";
  return size < 2n ** 63n ? "bigint" : "numeric";
};

/** Compiles the expressions of one relation. */
export class Compiler {
  private readonly places: ReadonlyMap<string, number>;
  private readonly windows = new WeakMap<object, Map<Expression, ReadonlyMap<object, Value>>>();

  /** @param runTime the logical time, as an ISO 8601 text */
  constructor(
    private readonly columns: readonly Column[],
    private readonly runTime: string,
  ) {
    this.places = new Map(columns.map(({ name }, place) => [name, place]));
  }

  compile(node: Expression): Compiled {
    const compile = (child: Expression): Compiled => this.compile(child);
    switch (node.kind) {
      case "literal":
        return this.literal(node);
      case "column": {
        const place = this.places.get(node.name);
        if (place === undefined) throw new Error(`no column ${node.name}`);
        return { type: this.columns[place]!.type, at: ({ row }) => row[place] ?? null };
      }
      case "runTime": {
        const { local, offset = 0n } = parseMoment(this.runTime.replace(/\.\d+/, ""));
        return { type: "timestamptz", at: () => local - offset };
      }
      case "call":
        return this.call(node);
      case "extract": {
        const operand = compile(node.operand);
        return {
          type: "numeric",
          at: strict([operand], (value) => {
            if (operand.type === "interval") return fieldOfInterval(node.field, value as Interval);
            return fieldOf(node.field, operand.type === "date" ? (value as bigint) * DAY : (value as bigint));
          }),
        };
      }
      case "negate":
        return this.negative(compile(node.operand));
      case "not": {
        const operand = compile(node.operand);
        return { type: "boolean", at: strict([operand], (value) => value !== true) };
      }
      case "binary":
        return operation(node.operator, compile(node.left), compile(node.right));
      case "case":
        return this.caseOf(node);
      case "cast": {
        const operand = compile(node.operand);
        return castTo(operand.type === "unknown" ? { ...operand, type: node.type } : operand, node.type);
      }
      case "in": {
        const parts = asOneType([compile(node.operand), ...node.values.map(compile)]);
        const found = parts
          .slice(1)
          .map((value) => comparison("=", parts[0]!, value))
          .reduce<Compiled>((left, right) => operation("or", left, right), {
            type: "boolean",
            at: () => false,
          });
        return node.negated ? { type: "boolean", at: strict([found], (value) => value !== true) } : found;
      }
      case "between": {
        const operand = compile(node.operand);
        const within = operation(
          "and",
          comparison(">=", operand, compile(node.low)),
          comparison("<=", operand, compile(node.high)),
        );
        return node.negated ? { type: "boolean", at: strict([within], (value) => value !== true) } : within;
      }
      case "is": {
        const operand = compile(node.operand);
        const wanted = { null: null, true: true, false: false }[node.test];
        return { type: "boolean", at: (place) => (operand.at(place) === wanted) !== node.negated };
      }
      case "lookup": {
        const operand = compile(node.operand);
        const [missing, otherwise] = [compile(node.missing), compile(node.otherwise)].map((part) =>
          castTo(part.type === "unknown" ? { ...part, type: node.type } : part, node.type),
        ) as [Compiled, Compiled];
        const entries = new Map<Value, number | string>(node.entries);
        return {
          type: node.type,
          at: (place) => {
            const value = operand.at(place);
            return value === null ? missing.at(place) : (entries.get(value) ?? otherwise.at(place));
          },
        };
      }
      case "window":
        return this.window(node);
      case "terms": {
        const operand = compile(node.operand);
        return { type: "sparse", at: strict([operand], (value) => termsOf(value as string, node.weights)) };
      }
      case "nearest": {
        const numbers = node.numbers.map(({ value }) => castTo(compile(value), "double precision"));
        const categories = node.categories.map(({ value }) => castTo(compile(value), "text"));
        return {
          type: "sparse",
          at: (place) =>
            nearestOf(
              node,
              numbers.map((part) => part.at(place) as number | null),
              categories.map((part) => part.at(place) as string | null),
            ),
        };
      }
      case "bin": {
        const operand = castTo(compile(node.operand), "double precision");
        return {
          type: "integer",
          at: strict([operand], (value) =>
            BigInt(node.cuts.filter((cut) => compareValues("double precision", cut, value!) <= 0).length),
          ),
        };
      }
      case "element": {
        const place = compile(node.place);
        return {
          type: "double precision",
          at: strict([place], (value) => node.values[Number(value) - 1] ?? null),
        };
      }
      case "like": {
        const parts = [node.operand, node.pattern].map((part) => castTo(compile(part), "text"));
        return {
          type: "boolean",
          at: strict(
            parts,
            (value, pattern) =>
              likePattern(pattern as string, node.ignoreCase).test(value as string) !== node.negated,
          ),
        };
      }
    }
  }

  private literal(node: Extract<Expression, { kind: "literal" }>): Compiled {
    switch (node.type) {
      case "number": {
        const type = literalType(node.text);
        const value: Value = isWhole(type) ? BigInt(node.text) : (parseNumeric(node.text) as Value);
        return { type, at: () => value };
      }
      case "string":
        return { type: "text", bare: true, at: () => node.text };
      case "double":
        return { type: "double precision", at: () => (Object.is(node.value, -0) ? 0 : node.value) };
      case "boolean":
        return { type: "boolean", at: () => node.value };
      case "null":
        return { type: "unknown", at: () => null };
    }
  }

  private negative(operand: Compiled): Compiled {
    const { type } = operand;
    return {
      type,
      at: strict([operand], (value) => {
        if (type === "numeric") return negate(value as Numeric) as Value;
        if (type === "interval") {
          const { months, days, micros } = value as Interval;
          return { months: -months, days: -days, micros: -micros };
        }
        return isWhole(type) ? -(value as bigint) : -(value as number);
      }),
    };
  }

  private caseOf(node: Extract<Expression, { kind: "case" }>): Compiled {
    const subject = node.subject && this.compile(node.subject);
    const conditions = node.branches.map(({ when }) => {
      const condition = this.compile(when);
      return subject ? comparison("=", subject, condition) : condition;
    });
    const otherwise: Expression = node.otherwise ?? { kind: "literal", type: "null" };
    const results = asOneType(
      [...node.branches.map(({ then }) => then), otherwise].map((part) => this.compile(part)),
    );
    return {
      type: results[0]!.type,
      at: (place) => {
        const found = conditions.findIndex((condition) => condition.at(place) === true);
        return (found < 0 ? results.at(-1)! : results[found]!).at(place);
      },
    };
  }

  private call(node: Extract<Expression, { kind: "call" }>): Compiled {
    const inputs = (node.withinGroup ? [...node.args, node.withinGroup] : node.args).map((arg) =>
      this.compile(arg),
    );
    const scalar = SCALARS[node.name];
    if (scalar) return scalar(inputs);
    if (!AGGREGATES[node.name]) throw new Error(`no function ${node.name}`);
    const filter = node.filter && this.compile(node.filter);
    const { type, over } = aggregateOver(node, inputs, filter);
    return { type, at: ({ group }) => over(group ?? []) };
  }

  private window(node: Extract<Expression, { kind: "window" }>): Compiled {
    if (node.call.kind !== "call") throw new Error("a window is over a call");
    const { call } = node;
    const by = node.by.map((part) => this.compile(part));
    const order = node.order.map(({ expression, descending = false }): WindowOrder => ({
      expression: this.compile(expression),
      descending,
    }));
    const args = call.args.map((arg) => this.compile(arg));
    const rank = RANKS[call.name];
    const aggregate = rank ? undefined : aggregateOver(call, args, call.filter && this.compile(call.filter));
    const rankType: Type = ["lag", "lead", "first_value"].includes(call.name) ? args[0]!.type : "bigint";
    const valueAt = (partition: Partition, place: number): Value => {
      const values = (at: number): readonly Value[] =>
        args.map((arg) => arg.at({ row: partition.rows[at]!, rows: partition.rows }));
      return rank
        ? rank(partition, place, values)
        : aggregate!.over(rowsInFrame(partition, place, order, node.frame));
    };
    return {
      type: aggregate?.type ?? rankType,
      at: ({ row, rows }) => {
        const known = this.windows.get(rows) ?? new Map<Expression, ReadonlyMap<object, Value>>();
        this.windows.set(rows, known);
        const values =
          known.get(node) ??
          new Map(
            partitionsOf(rows, by, order).flatMap((partition) =>
              partition.rows.map((found, place) => [found, valueAt(partition, place)] as const),
            ),
          );
        known.set(node, values);
        return values.get(row) ?? null;
      },
    };
  }
}
