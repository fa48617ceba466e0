import { column, type Expression, type Order } from "../expression/ast";
import { convertNode, convertOrder, type ConvertContext, type RawNode } from "../expression/convert";
import { FUNCTIONS } from "../expression/functions";
import { expressionKey } from "../expression/equal";
import { changeChildren, children, mapExpression } from "../expression/visit";
import { otherSide } from "../expression/sides";
import {
  aggregateRows,
  filter,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";

type Fields = Readonly<Record<string, unknown>>;

export interface SelectContext extends Pick<ConvertContext, "at" | "report"> {
  /** The rows behind a name after FROM, or undefined when there are none of that name. */
  readonly source: (name: string) => Relation | undefined;
  readonly sourceNames: readonly string[];
}

/** One named source of a FROM clause: its columns, and what they are called in the relation so far. */
interface Source {
  readonly alias: string;
  readonly columns: ReadonlyMap<string, string>;
}

interface From {
  readonly relation: Relation;
  readonly sources: readonly Source[];
}

const KNOWN_CLAUSES = [
  "distinctClause",
  "targetList",
  "fromClause",
  "whereClause",
  "groupClause",
  "havingClause",
  "sortClause",
  "limitCount",
  "limitOption",
  "withClause",
  "op",
  "all",
  "larg",
  "rarg",
];
const REFUSED: Readonly<Record<string, string>> = {
  intoClause: "INTO",
  lockingClause: "FOR UPDATE",
  windowClause: "WINDOW",
  valuesLists: "VALUES",
  limitOffset: "OFFSET",
};

/** Turns a SELECT of PostgreSQL's grammar into a relation over named sources, or reports what is not supported. */
export function convertSelect(fields: Fields, context: SelectContext): Relation | undefined {
  const strange = Object.keys(fields).find((key) => !KNOWN_CLAUSES.includes(key));
  if (strange !== undefined) {
    context.report(
      `${REFUSED[strange] ?? strange} is not supported in a SELECT here.`,
      undefined,
      "A SELECT may have WITH, DISTINCT, FROM, JOIN, WHERE, GROUP BY, HAVING, UNION ALL, ORDER BY and LIMIT.",
    );
    return undefined;
  }
  const scoped = withCommonTables(fields, context);
  if (!scoped) return undefined;
  if (fields["op"] !== "SETOP_NONE") return unionOf(fields, scoped);
  const from = fromClause((fields["fromClause"] as RawNode[] | undefined) ?? [], scoped);
  if (!from) return undefined;
  const names: ConvertContext = {
    at: scoped.at,
    report: scoped.report,
    windows: true,
    ...resolver(from.sources, scoped),
  };
  const where = fields["whereClause"] ? convertNode(fields["whereClause"] as RawNode, names) : undefined;
  if (fields["whereClause"] && !where) return undefined;
  const rows = where ? filter(from.relation, where) : from.relation;
  const targets = targetList((fields["targetList"] as RawNode[] | undefined) ?? [], from.sources, names);
  const selected = targets && grouped(rows, targets, fields, names);
  if (!selected) return undefined;
  const distinct = fields["distinctClause"] ? aggregateRows(selected, outputColumns(selected), []) : selected;
  return ordered(distinct, fields, scoped);
}

/** WITH: each common table can be read by those after it and by the SELECT. */
function withCommonTables(fields: Fields, context: SelectContext): SelectContext | undefined {
  const clause = fields["withClause"] as { recursive?: boolean; ctes?: RawNode[] } | undefined;
  if (!clause) return context;
  if (clause.recursive) {
    context.report("WITH RECURSIVE is not supported.", undefined, "It could run forever.");
    return undefined;
  }
  const known = new Map<string, Relation>();
  const scoped: SelectContext = {
    ...context,
    source: (name) => known.get(name) ?? context.source(name),
    sourceNames: context.sourceNames,
  };
  for (const raw of clause.ctes ?? []) {
    const cte = raw["CommonTableExpr"] as Fields;
    const query = (cte["ctequery"] as { SelectStmt?: Fields }).SelectStmt;
    const relation = query && convertSelect(query, scoped);
    if (!query)
      context.report("WITH may contain only SELECT.", context.at(cte["location"] as number | undefined));
    if (!relation) return undefined;
    known.set(String(cte["ctename"]), relation);
  }
  return scoped;
}

function unionOf(fields: Fields, context: SelectContext): Relation | undefined {
  if (fields["op"] !== "SETOP_UNION" || !fields["all"]) {
    context.report(
      "Only UNION ALL is supported between SELECTs.",
      undefined,
      "Put DISTINCT into an outer SELECT, or use a join.",
    );
    return undefined;
  }
  const left = convertSelect(fields["larg"] as Fields, context);
  const right = convertSelect(fields["rarg"] as Fields, context);
  if (!left || !right) return undefined;
  const columns = outputColumns(left);
  const others = outputColumns(right);
  if (columns.length !== others.length) {
    context.report(
      `The SELECTs around UNION ALL have ${columns.length} and ${others.length} columns.`,
      undefined,
      "Give both the same number.",
    );
    return undefined;
  }
  const renamed = project(
    right,
    columns.map((name, index) => ({ name, expression: column(others[index]!) })),
  );
  return ordered({ kind: "union", inputs: [left, renamed] }, fields, context);
}

function fromClause(items: readonly RawNode[], context: SelectContext): From | undefined {
  if (items.length !== 1) {
    context.report(
      items.length === 0
        ? "A SELECT needs a FROM."
        : "Several sources after FROM must be joined with JOIN ... ON.",
      undefined,
      `FROM strand reads the rows so far; other strands have their names: ${context.sourceNames.join(", ")}.`,
    );
    return undefined;
  }
  return fromItem(items[0]!, context);
}

function fromItem(node: RawNode, context: SelectContext): From | undefined {
  if (node["RangeVar"]) return namedSource(node["RangeVar"] as Fields, context);
  if (node["RangeSubselect"]) {
    const fields = node["RangeSubselect"] as {
      subquery?: { SelectStmt?: Fields };
      alias?: { aliasname?: string };
      lateral?: boolean;
    };
    const inner =
      fields.subquery?.SelectStmt && !fields.lateral
        ? convertSelect(fields.subquery.SelectStmt, context)
        : undefined;
    if (fields.lateral) context.report("LATERAL is not supported.", undefined);
    return inner && sourceOf(inner, fields.alias?.aliasname ?? "");
  }
  if (node["JoinExpr"]) return joinOf(node["JoinExpr"] as Fields, context);
  context.report("FROM may contain only strands, SELECTs in brackets and joins.", undefined);
  return undefined;
}

function namedSource(fields: Fields, context: SelectContext): From | undefined {
  const name = String(fields["relname"]);
  const at = context.at(fields["location"] as number | undefined);
  const found = fields["schemaname"] === undefined ? context.source(name) : undefined;
  if (!found) {
    const written = fields["schemaname"] === undefined ? name : `${String(fields["schemaname"])}.${name}`;
    context.report(
      `"${written}" cannot be read here.`,
      at,
      `A SELECT reads strands: strand (the rows so far), ${context.sourceNames.join(", ")}. To read a table, start a strand from it.`,
    );
    return undefined;
  }
  return sourceOf(found, (fields["alias"] as { aliasname?: string } | undefined)?.aliasname ?? name);
}

const sourceOf = (relation: Relation, alias: string): From => ({
  relation,
  sources: [{ alias, columns: new Map(outputColumns(relation).map((name) => [name, name])) }],
});

/** Columns of joined sources are told apart by the source's name before theirs. */
function labelled(from: From): From {
  const [source, ...more] = from.sources;
  if (!source || more.length > 0) return from;
  const columns = new Map(
    [...source.columns].map(([name, inner]) => [name, { inner, outer: `${source.alias}.${name}` }]),
  );
  return {
    relation: project(
      from.relation,
      [...columns.values()].map(({ inner, outer }) => ({ name: outer, expression: column(inner) })),
    ),
    sources: [
      { alias: source.alias, columns: new Map([...columns].map(([name, { outer }]) => [name, outer])) },
    ],
  };
}

const JOINS: Readonly<Partial<Record<string, "inner" | "left">>> = { JOIN_INNER: "inner", JOIN_LEFT: "left" };

function joinOf(fields: Fields, context: SelectContext): From | undefined {
  const how = JOINS[String(fields["jointype"])];
  if (!how || fields["isNatural"] || fields["usingClause"] || !fields["quals"]) {
    context.report(
      "Only JOIN ... ON and LEFT JOIN ... ON are supported.",
      undefined,
      "Write the condition after ON; swap the sides of a RIGHT JOIN.",
    );
    return undefined;
  }
  const left = fromItem(fields["larg"] as RawNode, context);
  const right = fromItem(fields["rarg"] as RawNode, context);
  if (!left || !right) return undefined;
  const [here, there] = [labelled(left), labelled(right)];
  const twice = there.sources.find((source) => here.sources.some((other) => other.alias === source.alias));
  if (twice) {
    context.report(
      `Two sources are named "${twice.alias}".`,
      undefined,
      "Rename one of them, as in strand AS other.",
    );
    return undefined;
  }
  const rightColumns = outputColumns(there.relation);
  const sources = [...here.sources, ...there.sources];
  const names = resolver(sources, context);
  const condition = convertNode(fields["quals"] as RawNode, {
    at: context.at,
    report: context.report,
    ...names,
  });
  if (!condition) return undefined;
  const sided = mapExpression(condition, (node) =>
    node.kind === "column" && rightColumns.includes(node.name)
      ? { ...node, name: otherSide(node.name) }
      : node,
  );
  return {
    sources,
    relation: {
      kind: "join",
      how,
      left: here.relation,
      right: there.relation,
      on: [],
      take: rightColumns.map((name) => ({ from: name, name })),
      condition: sided,
    },
  };
}

/** How names in expressions find their columns. */
function resolver(
  sources: readonly Source[],
  context: Pick<SelectContext, "report">,
): Pick<ConvertContext, "qualified" | "unqualified"> {
  return {
    qualified: (qualifier, name) => sources.find((source) => source.alias === qualifier)?.columns.get(name),
    unqualified: (name) => {
      const found = sources.flatMap((source) => source.columns.get(name) ?? []);
      if (found.length > 1)
        context.report(
          `"${name}" is a column of several sources.`,
          undefined,
          `Write ${sources.map((source) => `${source.alias}.${name}`).join(" or ")}.`,
        );
      return found[0];
    },
  };
}

function targetList(
  raw: readonly RawNode[],
  sources: readonly Source[],
  names: ConvertContext,
): readonly NamedExpression[] | undefined {
  const targets: NamedExpression[] = [];
  for (const [index, item] of raw.entries()) {
    const target = item["ResTarget"] as { name?: string; val?: RawNode; location?: number };
    const reference = target.val?.["ColumnRef"] as { fields?: readonly Fields[] } | undefined;
    const parts = reference?.fields ?? [];
    if (parts.at(-1)?.["A_Star"]) {
      const alias = parts.length === 2 ? (parts[0]!["String"] as { sval: string }).sval : undefined;
      for (const source of sources.filter((one) => alias === undefined || one.alias === alias)) {
        for (const [name, inner] of source.columns) targets.push({ name, expression: column(inner) });
      }
      continue;
    }
    const expression = target.val && convertNode(target.val, names);
    if (!expression) return undefined;
    const made = expression.kind === "call" ? expression.name : `column_${index + 1}`;
    const own = parts.length > 0 ? (parts.at(-1)!["String"] as { sval: string }).sval : made;
    targets.push({ name: target.name ?? own, expression });
  }
  const twice = targets.find(
    (target, index) => targets.findIndex((other) => other.name === target.name) !== index,
  );
  if (!twice) return targets;
  names.report(`Two columns are named "${twice.name}".`, undefined, "Rename one of them with AS.");
  return undefined;
}

const isAggregate = (node: Expression): boolean =>
  node.kind === "call" &&
  FUNCTIONS[node.name]?.aggregate === true &&
  FUNCTIONS[node.name]?.windowOnly !== true;

/** Whether an aggregate stands in it that is not the call of a window. */
const hasAggregate = (node: Expression): boolean =>
  isAggregate(node) ||
  (node.kind === "window"
    ? [...node.by, ...node.order.map((order) => order.expression)]
    : children(node)
  ).some(hasAggregate);

/** GROUP BY, HAVING and aggregates: groups and aggregates become columns first, then the list is computed from them. */
function grouped(
  rows: Relation,
  targets: readonly NamedExpression[],
  fields: Fields,
  names: ConvertContext,
): Relation | undefined {
  const having = fields["havingClause"] ? convertNode(fields["havingClause"] as RawNode, names) : undefined;
  if (fields["havingClause"] && !having) return undefined;
  const rawGroups = (fields["groupClause"] as RawNode[] | undefined) ?? [];
  if (rawGroups.length === 0 && !having && !targets.some((target) => hasAggregate(target.expression)))
    return project(rows, targets);
  const groups: NamedExpression[] = [];
  for (const raw of rawGroups) {
    const position = ((raw["A_Const"] as { ival?: { ival?: number } } | undefined)?.ival?.ival ?? 0) - 1;
    const byAlias = targets.find((target) => {
      const ref = raw["ColumnRef"] as { fields?: readonly Fields[] } | undefined;
      return (
        ref?.fields?.length === 1 &&
        (ref.fields[0]!["String"] as { sval?: string } | undefined)?.sval === target.name &&
        !hasAggregate(target.expression) &&
        target.expression.kind !== "column"
      );
    });
    const expression = targets[position]?.expression ?? byAlias?.expression ?? convertNode(raw, names);
    if (!expression) return undefined;
    groups.push({
      name: expression.kind === "column" ? expression.name : `group ${groups.length + 1}`,
      expression,
    });
  }
  const byText = new Map(groups.map((group) => [expressionKey(group.expression), group.name]));
  const aggregates = new Map<string, NamedExpression>();
  const rewritten = (node: Expression): Expression => {
    const group = byText.get(expressionKey(node));
    if (group !== undefined) return column(group);
    if (!isAggregate(node)) return changeChildren(node, rewritten);
    const text = expressionKey(node);
    const known = aggregates.get(text) ?? { name: `aggregate ${aggregates.size + 1}`, expression: node };
    aggregates.set(text, known);
    return { ...column(known.name), ...(node.at === undefined ? {} : { at: node.at }) };
  };
  const items = targets.map((target) => ({ name: target.name, expression: rewritten(target.expression) }));
  const condition = having && rewritten(having);
  const grouping = groups.some((group) => group.expression.kind !== "column")
    ? withColumns(rows, groups)
    : rows;
  const answer = aggregateRows(
    grouping,
    groups.map((group) => group.name),
    [...aggregates.values()],
  );
  return project(condition ? filter(answer, condition) : answer, items);
}

/** ORDER BY and LIMIT. An order without a limit is left out: a relation has none. */
function ordered(relation: Relation, fields: Fields, context: SelectContext): Relation | undefined {
  if (fields["limitCount"] === undefined) return relation;
  const rows = (fields["limitCount"] as { A_Const?: { ival?: { ival?: number } } }).A_Const?.ival?.ival;
  if (rows === undefined) {
    context.report("LIMIT takes a whole number.", undefined);
    return undefined;
  }
  const columns = outputColumns(relation);
  const order: Order[] = [];
  for (const raw of (fields["sortClause"] as RawNode[] | undefined) ?? []) {
    const node = (raw["SortBy"] as Fields)["node"] as RawNode;
    const position = (node["A_Const"] as { ival?: { ival?: number } } | undefined)?.ival?.ival;
    const converted = convertOrder(raw, {
      at: context.at,
      report: context.report,
      qualified: (_qualifier, name) => (columns.includes(name) ? name : undefined),
    });
    if (!converted) return undefined;
    order.push(
      position === undefined ? converted : { ...converted, expression: column(columns[position - 1] ?? "") },
    );
  }
  if (order.length === 0) {
    context.report("LIMIT without ORDER BY returns different rows each time.", undefined, "Add ORDER BY.");
    return undefined;
  }
  return { kind: "limit", input: relation, order, rows };
}
