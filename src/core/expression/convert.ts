import { valueTypeFromName } from "../value-type";
import type { BinaryOperator, Expression, Order } from "./ast";
import { EXTRACT_FIELDS } from "./functions";

/** A node of the grammar's output: one key naming its kind, one object of fields. */
export type RawNode = Readonly<Record<string, unknown>>;
type Fields = Readonly<Record<string, unknown>>;

export interface ConvertContext {
  readonly at: (bytes: number | undefined) => number | undefined;
  readonly report: (message: string, offset: number | undefined, hint?: string) => void;
  /** The column that a name with another name before it stands for, where such names are allowed. */
  readonly qualified?: (qualifier: string, name: string) => string | undefined;
  /** The column that a bare name stands for, where that is not the name itself. */
  readonly unqualified?: (name: string) => string | undefined;
  /** Whether window functions may be called. */
  readonly windows?: boolean;
}

const OPERATORS: readonly string[] = ["+", "-", "*", "/", "%", "^", "||", "=", "<>", "<", "<=", ">", ">="];

/** Turns the grammar's tree into Ravlen's, or reports what is not supported and gives undefined. */
export function convertNode(node: RawNode, context: ConvertContext): Expression | undefined {
  const [kind] = Object.keys(node);
  const fields = (kind === undefined ? {} : node[kind]) as Fields;
  const at = context.at(fields["location"] as number | undefined);
  const placed = <T extends Expression>(expression: T): T =>
    at === undefined ? expression : { ...expression, at };
  const convert = (raw: unknown): Expression | undefined => convertNode(raw as RawNode, context);
  const all = (raw: unknown): Expression[] | undefined => {
    const converted = ((raw as RawNode[] | undefined) ?? []).map(convert);
    return converted.every((value) => value !== undefined) ? converted : undefined;
  };
  switch (kind) {
    case "A_Const":
      if (fields["bsval"] !== undefined) {
        context.report(
          "Bit strings such as b'01' and x'ff' are not supported.",
          at,
          "Write a number, or a text in plain quotes.",
        );
        return undefined;
      }
      return placed(constant(fields));
    case "ColumnRef":
      return columnReference(fields, context, at);
    case "TypeCast": {
      const operand = convert(fields["arg"]);
      const typeName = fields["typeName"] as Fields;
      const type = valueTypeFromName(
        names(typeName["names"])
          .filter((name) => name !== "pg_catalog")
          .join("."),
      );
      if (type === "other" || typeName["arrayBounds"] !== undefined) {
        context.report(
          "This type is not supported in a cast.",
          at,
          "Use boolean, integer, bigint, numeric, double precision, text, date, timestamp, timestamptz or interval.",
        );
        return undefined;
      }
      return operand && placed({ kind: "cast", operand, type });
    }
    case "BoolExpr": {
      const args = all(fields["args"]);
      if (!args) return undefined;
      if (fields["boolop"] === "NOT_EXPR") return placed({ kind: "not", operand: args[0]! });
      const operator: BinaryOperator = fields["boolop"] === "AND_EXPR" ? "and" : "or";
      return args.reduce((left, right) => placed({ kind: "binary", operator, left, right }));
    }
    case "NullTest": {
      const operand = convert(fields["arg"]);
      return (
        operand &&
        placed({ kind: "is", operand, test: "null", negated: fields["nulltesttype"] === "IS_NOT_NULL" })
      );
    }
    case "BooleanTest": {
      const operand = convert(fields["arg"]);
      const test = String(fields["booltesttype"]);
      if (test.endsWith("UNKNOWN")) {
        context.report("IS UNKNOWN is not supported.", at, "Use IS NULL.");
        return undefined;
      }
      return (
        operand &&
        placed({
          kind: "is",
          operand,
          test: test.endsWith("TRUE") ? "true" : "false",
          negated: test.startsWith("IS_NOT"),
        })
      );
    }
    case "CaseExpr": {
      const subject = fields["arg"] ? convert(fields["arg"]) : undefined;
      if (fields["arg"] && !subject) return undefined;
      const branches = ((fields["args"] as RawNode[] | undefined) ?? []).map((raw) => {
        const branch = raw["CaseWhen"] as Fields;
        const condition = convert(branch["expr"]);
        const then = convert(branch["result"]);
        return condition && then ? { when: condition, then } : undefined;
      });
      const otherwise = fields["defresult"] ? convert(fields["defresult"]) : undefined;
      if (fields["defresult"] && !otherwise) return undefined;
      if (!branches.every((branch) => branch !== undefined)) return undefined;
      return placed({
        kind: "case",
        branches,
        ...(subject ? { subject } : {}),
        ...(otherwise ? { otherwise } : {}),
      });
    }
    case "CoalesceExpr":
    case "MinMaxExpr": {
      const args = all(fields["args"]);
      const extreme = fields["op"] === "IS_GREATEST" ? "greatest" : "least";
      return args && placed({ kind: "call", name: kind === "CoalesceExpr" ? "coalesce" : extreme, args });
    }
    case "FuncCall":
      return functionCall(fields, context, at);
    case "A_Expr":
      return operation(fields, context, at);
    case "SQLValueFunction":
      context.report(
        "The current date and time cannot be used, because results would change between runs.",
        at,
        "Use run_time(), the logical time of the run.",
      );
      return undefined;
    case "SubLink":
      context.report(
        "A subquery cannot be used in an expression.",
        at,
        "Read the other table as a strand and join it.",
      );
      return undefined;
    default:
      context.report(`This kind of expression (${kind ?? "empty"}) is not supported.`, at);
      return undefined;
  }
}

const names = (raw: unknown): string[] =>
  ((raw as { String?: { sval?: string } }[] | undefined) ?? []).map((entry) => entry.String?.sval ?? "");

function constant(fields: Fields): Expression {
  if (fields["isnull"]) return { kind: "literal", type: "null" };
  if (fields["sval"] !== undefined)
    return { kind: "literal", type: "string", text: (fields["sval"] as { sval?: string }).sval ?? "" };
  if (fields["boolval"] !== undefined)
    return {
      kind: "literal",
      type: "boolean",
      value: (fields["boolval"] as { boolval?: boolean }).boolval ?? false,
    };
  if (fields["fval"] !== undefined)
    return { kind: "literal", type: "number", text: (fields["fval"] as { fval?: string }).fval ?? "0" };
  return {
    kind: "literal",
    type: "number",
    text: String((fields["ival"] as { ival?: number } | undefined)?.ival ?? 0),
  };
}

function columnReference(
  fields: Fields,
  context: ConvertContext,
  at: number | undefined,
): Expression | undefined {
  const parts = names(fields["fields"]);
  const [name] = parts;
  const known = parts.length === 2 ? context.qualified?.(parts[0]!, parts[1]!) : undefined;
  if (known !== undefined) return { kind: "column", name: known, ...(at === undefined ? {} : { at }) };
  if (parts.length === 2 && context.qualified) {
    context.report(
      `Nothing here is named "${parts[0]}".`,
      at,
      "Write the name of the strand that is joined, in double quotes if it has capitals or spaces.",
    );
    return undefined;
  }
  if (parts.length !== 1 || !name) {
    context.report(
      "Columns are not qualified with a table.",
      at,
      "Write only the column's name, in double quotes if it has capitals or spaces.",
    );
    return undefined;
  }
  return { kind: "column", name: context.unqualified?.(name) ?? name, ...(at === undefined ? {} : { at }) };
}

/** Frame options of a window that says nothing of its frame. */
const DEFAULT_FRAME = 1058;

function windowOf(
  call: Expression,
  over: Fields,
  context: ConvertContext,
  at: number | undefined,
): Expression | undefined {
  if (over["name"] !== undefined || over["refname"] !== undefined || over["frameOptions"] !== DEFAULT_FRAME) {
    context.report(
      "Only an inline window with PARTITION BY and ORDER BY is supported.",
      at,
      "For time ranges, use a rolling step.",
    );
    return undefined;
  }
  const by = ((over["partitionClause"] as RawNode[] | undefined) ?? []).map((node) =>
    convertNode(node, context),
  );
  const order = ((over["orderClause"] as RawNode[] | undefined) ?? []).map((node) =>
    convertOrder(node, context),
  );
  if (!by.every((key) => key !== undefined) || !order.every((node) => node !== undefined)) return undefined;
  return { kind: "window", call, by, order, ...(at === undefined ? {} : { at }) };
}

/** One item of ORDER BY. Missing values come last, whatever the direction. */
export function convertOrder(raw: RawNode, context: ConvertContext): Order | undefined {
  const fields = raw["SortBy"] as Fields;
  if (fields["sortby_nulls"] === "SORTBY_NULLS_FIRST") {
    context.report("NULLS FIRST is not supported; missing values always come last.", undefined);
    return undefined;
  }
  const expression = convertNode(fields["node"] as RawNode, context);
  return expression && { expression, descending: fields["sortby_dir"] === "SORTBY_DESC" };
}

function functionCall(
  fields: Fields,
  context: ConvertContext,
  at: number | undefined,
): Expression | undefined {
  const qualified = names(fields["funcname"]);
  const name = qualified.at(-1) ?? "";
  const unsupported = ["over", "func_variadic", "agg_order"].find(
    (key) =>
      fields[key] !== undefined &&
      !(key === "over" && context.windows) &&
      !(key === "agg_order" && fields["agg_within_group"]),
  );
  if (unsupported || (qualified.length > 1 && qualified[0] !== "pg_catalog")) {
    context.report(
      unsupported === "over"
        ? "Window functions are not supported in expressions."
        : `This call of ${qualified.join(".")} is not supported.`,
      at,
      unsupported === "over"
        ? "Use a sql step: its SELECT may number rows, sum over them and look back."
        : undefined,
    );
    return undefined;
  }
  const convert = (raw: unknown): Expression | undefined => convertNode(raw as RawNode, context);
  const args = ((fields["args"] as RawNode[] | undefined) ?? []).map(convert);
  if (!args.every((arg) => arg !== undefined)) return undefined;
  const placed = at === undefined ? {} : { at };
  if (name === "run_time" && args.length === 0) return { kind: "runTime", ...placed };
  if (name === "extract" || name === "date_part") {
    const [field, operand] = args;
    const wanted = field?.kind === "literal" && field.type === "string" ? field.text.toLowerCase() : "";
    if (!operand || !EXTRACT_FIELDS.some((extractField) => extractField === wanted)) {
      context.report(
        `extract() does not know the field "${wanted}".`,
        at,
        `Use one of ${EXTRACT_FIELDS.join(", ")}.`,
      );
      return undefined;
    }
    return { kind: "extract", field: wanted, operand, ...placed };
  }
  const filter = fields["agg_filter"] ? convert(fields["agg_filter"]) : undefined;
  if (fields["agg_filter"] && !filter) return undefined;
  const orders = fields["agg_within_group"] ? ((fields["agg_order"] as RawNode[] | undefined) ?? []) : [];
  const order = orders[0]?.["SortBy"] as Fields | undefined;
  const withinGroup = order ? convert(order["node"]) : undefined;
  if (
    orders.length > 1 ||
    (order && order["sortby_dir"] !== "SORTBY_DEFAULT" && order["sortby_dir"] !== "SORTBY_ASC")
  ) {
    context.report("WITHIN GROUP takes one column in ascending order.", at);
    return undefined;
  }
  const called: Expression = {
    kind: "call",
    name,
    args,
    ...placed,
    ...(fields["agg_distinct"] ? { distinct: true } : {}),
    ...(fields["agg_star"] ? { star: true } : {}),
    ...(filter ? { filter } : {}),
    ...(withinGroup ? { withinGroup } : {}),
  };
  return fields["over"] ? windowOf(called, fields["over"] as Fields, context, at) : called;
}

function operation(fields: Fields, context: ConvertContext, at: number | undefined): Expression | undefined {
  const convert = (raw: unknown): Expression | undefined => convertNode(raw as RawNode, context);
  const placed = at === undefined ? {} : { at };
  const operator = names(fields["name"]).at(-1) ?? "";
  const list = (raw: unknown): Expression[] | undefined => {
    const items = ((raw as { List?: { items?: RawNode[] } }).List?.items ?? []).map(convert);
    return items.every((node) => node !== undefined) ? items : undefined;
  };
  const right = fields["rexpr"];
  switch (fields["kind"]) {
    case "AEXPR_OP": {
      const operand = convert(right);
      if (!fields["lexpr"]) {
        if (operator === "-" && operand) return { kind: "negate", operand, ...placed };
        if (operator === "+") return operand;
        break;
      }
      const left = convert(fields["lexpr"]);
      const normal = operator === "!=" ? "<>" : operator;
      if (!OPERATORS.includes(normal)) break;
      return (
        left &&
        operand && { kind: "binary", operator: normal as BinaryOperator, left, right: operand, ...placed }
      );
    }
    case "AEXPR_IN": {
      const operand = convert(fields["lexpr"]);
      const values = list(right);
      return operand && values && { kind: "in", operand, values, negated: operator === "<>", ...placed };
    }
    case "AEXPR_BETWEEN":
    case "AEXPR_NOT_BETWEEN": {
      const operand = convert(fields["lexpr"]);
      const bounds = list(right);
      return (
        operand &&
        bounds && {
          kind: "between",
          operand,
          low: bounds[0]!,
          high: bounds[1]!,
          negated: fields["kind"] === "AEXPR_NOT_BETWEEN",
          ...placed,
        }
      );
    }
    case "AEXPR_LIKE":
    case "AEXPR_ILIKE": {
      const operand = convert(fields["lexpr"]);
      const pattern = convert(right);
      return (
        operand &&
        pattern && {
          kind: "like",
          operand,
          pattern,
          negated: operator.startsWith("!"),
          ignoreCase: fields["kind"] === "AEXPR_ILIKE",
          ...placed,
        }
      );
    }
    case "AEXPR_DISTINCT":
    case "AEXPR_NOT_DISTINCT": {
      const left = convert(fields["lexpr"]);
      const other = convert(right);
      const name: BinaryOperator =
        fields["kind"] === "AEXPR_DISTINCT" ? "is distinct from" : "is not distinct from";
      return left && other && { kind: "binary", operator: name, left, right: other, ...placed };
    }
    case "AEXPR_NULLIF": {
      const left = convert(fields["lexpr"]);
      const other = convert(right);
      return left && other && { kind: "call", name: "nullif", args: [left, other], ...placed };
    }
  }
  context.report(
    `The operator "${operator}" is not supported.`,
    at,
    `Use one of ${OPERATORS.join(" ")}, IN, BETWEEN, LIKE or IS.`,
  );
  return undefined;
}
