import { fromOtherSide } from "@/core/expression/sides";
import { column, type Expression } from "@/core/expression/ast";
import { printWordRuns } from "./special-expressions";
import { printExpression, type PrintContext } from "./expression";
import { countColumnUses, hasWindow, mapExpression, substitute } from "@/core/expression/visit";
import { isUsableIdentifier } from "@/core/names/identifier";
import { quoteDouble, quoteIdentifier, quoteTable, quoteText } from "./quote";
import { NO_COLUMNS, printSelect, type Block } from "./select";
import { outputColumns, type Relation } from "@/core/relation/relation";

/**
 * Prints a relation as one SELECT with readable common table expressions, each named after the step it ends with.
 * Adjacent projections, filters and joins fold into one SELECT as long as nothing costly is computed twice.
 */
export function printRelation(relation: Relation, context: PrintContext): string {
  const printer = new Printer(context);
  const body = printer.body(relation);
  const ctes = printer.ctes.map((cte) => `${quoteIdentifier(cte.name)} AS (\n${cte.sql}\n)`);
  return ctes.length > 0 ? `WITH ${ctes.join(",\n")}\n${body}` : body;
}

class Printer {
  readonly ctes: { readonly name: string; readonly sql: string }[] = [];
  private readonly taken = new Set<string>();
  /** Names of the common table expressions of relations that several parents read. */
  private readonly shared = new Map<Relation, string>();

  constructor(private readonly context: PrintContext) {}

  /** The last SELECT, which reads the common table expressions. */
  body(relation: Relation): string {
    return this.select(this.block(relation));
  }

  private block(relation: Relation): Block {
    switch (relation.kind) {
      case "table": {
        const alias = this.free(relation.source.table);
        return this.source(quoteTable(relation.source), alias, relation.columns, []);
      }
      case "given":
        return this.source(quoteIdentifier(relation.name), this.free(relation.name), relation.columns, []);
      case "sample": {
        const inner = this.plain(this.block(relation.input));
        const share = `TABLESAMPLE SYSTEM (${quoteDouble(100 * relation.share)}) REPEATABLE (1)`;
        return { ...inner, joins: [share] };
      }
      case "constants":
        return this.constants(relation);
      case "label": {
        const inner = this.block(relation.input);
        return { ...inner, labels: [...inner.labels, relation.name] };
      }
      case "common":
        return this.asShared(relation);
      case "fence":
        return this.asFenced(this.block(relation.input));
      case "project": {
        const input = this.projectable(
          this.block(relation.input),
          relation.items.map((item) => item.expression),
        );
        const definitions = definitionsOf(input);
        return {
          ...input,
          items: relation.items.map((item) => ({
            name: item.name,
            expression: substitute(item.expression, definitions),
          })),
        };
      }
      case "filter": {
        const input = this.settled(this.foldable(this.block(relation.input), [relation.condition]));
        return { ...input, where: [...input.where, substitute(relation.condition, definitionsOf(input))] };
      }
      case "aggregate": {
        const keys = relation.by.map((name) => column(name));
        const folded = this.settled(
          this.foldable(this.block(relation.input), [
            ...keys,
            ...relation.measures.map((measure) => measure.expression),
          ]),
        );
        const input = relation.by.some((name) => isConstant(folded, name)) ? this.asCte(folded) : folded;
        const definitions = definitionsOf(input);
        const by = relation.by.map((name) => ({ name, expression: substitute(column(name), definitions) }));
        const measures = relation.measures.map((measure) => ({
          name: measure.name,
          expression: substitute(measure.expression, definitions),
        }));
        return { ...input, items: [...by, ...measures], groupBy: by.map((key) => key.expression) };
      }
      case "join":
        return this.join(relation);
      case "union":
        return this.union(relation);
      case "limit": {
        const order = relation.order.map(({ expression }) => expression);
        const inner = this.block(relation.input);
        // Groups in the order of their own columns need no SELECT around them, and can be had one by one.
        const isOwnOrder = !inner.limit && order.every(({ kind }) => kind === "column");
        const input = inner.groupBy && isOwnOrder ? inner : this.foldable(inner, order);
        const definitions = definitionsOf(input);
        return {
          ...input,
          limit: {
            rows: relation.rows,
            offset: relation.offset ?? 0,
            order: relation.order
              .map((order) => ({ ...order, expression: substitute(order.expression, definitions) }))
              .filter(({ expression }) => expression.kind !== "literal"),
          },
        };
      }
      case "unpivot": {
        const values = (definitions: ReadonlyMap<string, Expression>): string =>
          relation.columns
            .map((column, place) => {
              const name = relation.named === "by place" ? String(place) : quoteText(column.name);
              return `(${name}, ${this.print(substitute(column.expression, definitions))})`;
            })
            .join(", ");
        return this.lateral(
          relation,
          relation.columns.map((column) => column.expression),
          [relation.nameColumn, relation.valueColumn],
          (definitions) => `VALUES ${values(definitions)}`,
        );
      }
      case "words":
        return this.lateral(relation, [relation.text], [relation.wordColumn], (definitions) =>
          printWordRuns(this.print(substitute(relation.text, definitions)), relation.longest),
        );
    }
  }

  private union(relation: Extract<Relation, { kind: "union" }>): Block {
    const columns = outputColumns(relation);
    const parts = relation.inputs.map((input) => {
      const block = this.block(input);
      const simple = block.limit ? this.asCte(block) : block;
      const items = columns.map(
        (name) => simple.items.find((item) => item.name === name) ?? { name, expression: column(name) },
      );
      return this.select({ ...simple, items });
    });
    const name = this.free("stacked");
    this.ctes.push({ name, sql: parts.join("\nUNION ALL\n") });
    return this.source(quoteIdentifier(name), name, columns, []);
  }

  private constants({ name, columns, rows }: Extract<Relation, { kind: "constants" }>): Block {
    const selects = rows.map((row) => {
      const items = columns.map(
        (column, place) => `${this.print(row[place]!)} AS ${quoteIdentifier(column)}`,
      );
      return `SELECT ${items.length > 0 ? items.join(", ") : NO_COLUMNS}`;
    });
    const alias = this.free(name);
    this.ctes.push({ name: alias, sql: selects.join("\nUNION ALL\n") });
    return this.source(quoteIdentifier(alias), alias, columns, []);
  }

  /** Several rows for each row, made from the row itself. */
  private lateral(
    relation: Extract<Relation, { kind: "unpivot" | "words" }>,
    read: readonly Expression[],
    made: readonly string[],
    rows: (definitions: ReadonlyMap<string, Expression>) => string,
  ): Block {
    const input = this.settled(this.foldable(this.block(relation.input), read));
    const definitions = definitionsOf(input);
    const alias = this.free("each");
    const clause = `CROSS JOIN LATERAL (${rows(definitions)}) AS ${quoteIdentifier(alias)}(${made.map(quoteIdentifier).join(", ")})`;
    const kept = relation.keep.map((name) => ({ name, expression: definitions.get(name) ?? column(name) }));
    return {
      ...input,
      joins: [...input.joins, clause],
      items: [...kept, ...made.map((name) => ({ name, expression: column(name, alias) }))],
    };
  }

  /** A block whose columns do not look at other rows, so that rows may be filtered, grouped or multiplied. */
  private settled(block: Block): Block {
    return block.items.some((item) => hasWindow(item.expression)) ? this.asCte(block) : block;
  }

  private join(relation: Extract<Relation, { kind: "join" }>): Block {
    const onColumns = relation.on.map((pair) => column(pair.left));
    let left = this.foldable(this.block(relation.left), onColumns);
    // Only plain columns may cross an outer join unevaluated, and they must not be computed twice.
    if (!left.items.every((item) => item.expression.kind === "column")) left = this.asCte(left);
    const right = this.plain(this.block(relation.right));
    const definitions = definitionsOf(left);
    const condition =
      relation.condition &&
      this.print(
        mapExpression(relation.condition, (node) => {
          if (node.kind !== "column") return node;
          const other = fromOtherSide(node.name);
          return other === undefined ? (definitions.get(node.name) ?? node) : column(other, right.alias);
        }),
      );
    const pairs = relation.on.map(
      (pair) =>
        `${this.print(substitute(column(pair.left), definitions))} = ${this.print(column(pair.right, right.alias))}`,
    );
    const on = condition === undefined ? pairs : [...pairs, `(${condition})`];
    const alias = right.from === quoteIdentifier(right.alias) ? "" : ` AS ${quoteIdentifier(right.alias)}`;
    const clause = `${relation.how === "left" ? "LEFT JOIN" : "JOIN"} ${right.from}${alias} ON ${on.length > 0 ? on.join(" AND ") : "true"}`;
    return {
      ...left,
      joins: [...left.joins, clause],
      items: [
        ...left.items,
        ...relation.take.map((pair) => ({ name: pair.name, expression: column(pair.from, right.alias) })),
      ],
      labels: [...left.labels],
    };
  }

  /**
   * A block whose columns can be replaced by others. The first rows in an order stay the same, whatever is
   * computed of them.
   */
  private projectable(block: Block, items: readonly Expression[]): Block {
    // A window over a window must read the inner one as a column.
    if (items.some(hasWindow)) return this.settled(this.foldable(block, items));
    const isPage = block.limit !== undefined && !block.groupBy;
    return isPage && !repeatsCostly(block, items) ? block : this.foldable(block, items);
  }

  /** A block that outer expressions can be folded into: not grouped, and nothing costly read more than once. */
  private foldable(block: Block, outer: readonly Expression[]): Block {
    if (block.groupBy || block.limit) return this.asCte(block);
    return repeatsCostly(block, outer) ? this.asCte(block) : block;
  }

  /** A block that is nothing but a source: a table or a CTE. */
  private plain(block: Block): Block {
    const simple =
      block.joins.length === 0 &&
      block.where.length === 0 &&
      !block.groupBy &&
      !block.limit &&
      block.items.every((item) => item.expression.kind === "column" && item.expression.name === item.name);
    return simple ? block : this.asCte(block);
  }

  private asCte(block: Block): Block {
    const name = this.free(block.labels.at(-1) ?? "rows");
    this.ctes.push({ name, sql: this.select(block) });
    return this.source(
      quoteIdentifier(name),
      name,
      block.items.map((item) => item.name),
      block.labels,
    );
  }

  /** One common table expression for all parents, under a different alias in each. */
  private asShared(relation: Extract<Relation, { kind: "common" }>): Block {
    const known = this.shared.get(relation);
    if (known !== undefined)
      return this.source(quoteIdentifier(known), this.free(known), outputColumns(relation), []);
    const inner = this.block(relation.input);
    const block = this.asCte({ ...inner, labels: [...inner.labels, relation.name] });
    this.shared.set(relation, block.alias);
    return block;
  }

  /** A sub-select in place: as a common table expression, PostgreSQL would write its rows down first. */
  private asFenced(block: Block): Block {
    const name = this.free(block.labels.at(-1) ?? "rows");
    const sql = this.select({ ...block, fenced: true });
    return this.source(
      `(\n${sql}\n)`,
      name,
      block.items.map((item) => item.name),
      block.labels,
    );
  }

  private source(from: string, alias: string, columns: readonly string[], labels: readonly string[]): Block {
    return {
      from,
      alias,
      joins: [],
      where: [],
      labels,
      items: columns.map((name) => ({ name, expression: column(name, alias) })),
    };
  }

  private free(wanted: string): string {
    const base =
      isUsableIdentifier(wanted) && wanted.length <= 50
        ? wanted
        : `${wanted.replaceAll("\0", "").slice(0, 20) || "rows"}`;
    let name = base;
    for (let index = 2; this.taken.has(name); index += 1) name = `${base} ${index}`;
    this.taken.add(name);
    return name;
  }

  private print(expression: Expression): string {
    return printExpression(expression, this.context);
  }

  private select(block: Block): string {
    return printSelect(block, (expression) => this.print(expression));
  }
}

const definitionsOf = (block: Block): ReadonlyMap<string, Expression> =>
  new Map(block.items.map((item) => [item.name, item.expression]));

/** Whether a column is a bare constant, which GROUP BY and ORDER BY would take for the position of a column. */
const isConstant = ({ items }: Block, name: string): boolean =>
  items.find((item) => item.name === name)?.expression.kind === "literal";

/** Whether expressions read a column several times that is costly to compute. */
function repeatsCostly({ items }: Block, outer: readonly Expression[]): boolean {
  const uses = countColumnUses(outer);
  return items.some((item) => (uses.get(item.name) ?? 0) > 1 && !isCheap(item.expression));
}

/** Cheap enough to be written twice: a column, a constant, or one test or cast of them. */
function isCheap(expression: Expression): boolean {
  switch (expression.kind) {
    case "column":
    case "literal":
    case "runTime":
      return true;
    case "cast":
    case "is":
      return isCheap(expression.operand);
    default:
      return false;
  }
}
