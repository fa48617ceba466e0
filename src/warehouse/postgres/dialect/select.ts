import type { Expression, Order } from "@/core/expression/ast";
import { printOrder } from "./expression";
import { columnsOf, mapExpression } from "@/core/expression/visit";
import { FENCE } from "./fence";
import { quoteIdentifier } from "./quote";
import type { NamedExpression } from "@/core/relation/relation";

type Print = (expression: Expression) => string;

/** One SELECT being put together. Expressions refer to columns qualified by the alias of their source. */
export interface Block {
  readonly from: string;
  readonly alias: string;
  readonly joins: readonly string[];
  readonly where: readonly Expression[];
  readonly items: readonly NamedExpression[];
  readonly groupBy?: readonly Expression[];
  readonly labels: readonly string[];
  readonly fenced?: boolean;
  /** Only so many rows, in an order. Nothing can be folded into such a block. */
  readonly limit?: { readonly order: readonly Order[]; readonly rows: number; readonly offset: number };
}

/** What a SELECT without columns has to have. */
export const NO_COLUMNS = 'NULL::boolean AS "nothing"';

/** Prints a SELECT. */
export function printSelect(block: Block, print: Print): string {
  // With a single source the alias before every column only gets in the reader's way.
  const bare = (expression: Expression): Expression =>
    block.joins.length > 0
      ? expression
      : mapExpression(expression, (node) =>
          node.kind === "column" ? { kind: "column", name: node.name } : node,
        );
  const items = block.items.map((item) => {
    const expression = bare(item.expression);
    const same = expression.kind === "column" && expression.name === item.name;
    return `${print(expression)}${same ? "" : ` AS ${quoteIdentifier(item.name)}`}`;
  });
  const alias =
    block.from === quoteIdentifier(block.alias) ||
    (block.joins.length === 0 && block.from.endsWith(`.${quoteIdentifier(block.alias)}`))
      ? ""
      : ` AS ${quoteIdentifier(block.alias)}`;
  if (block.fenced) items.push(FENCE);
  const lines = [
    `SELECT ${items.length > 0 ? items.join(", ") : NO_COLUMNS}`,
    `FROM ${block.from}${alias}`,
    ...block.joins,
  ];
  if (block.where.length > 0)
    lines.push(`WHERE ${block.where.map((node) => printConjunct(bare(node), print)).join(" AND ")}`);
  if (block.groupBy && block.groupBy.length > 0)
    lines.push(`GROUP BY ${block.groupBy.map((node) => print(bare(node))).join(", ")}`);
  if (block.limit) {
    if (block.limit.order.length > 0) lines.push(`ORDER BY ${printOrder(orderOf(block, bare), print)}`);
    lines.push(`LIMIT ${Math.trunc(block.limit.rows)}`);
    if (block.limit.offset > 0) lines.push(`OFFSET ${Math.trunc(block.limit.offset)}`);
  }
  return lines.join("\n");
}

/**
 * The order of a block's rows. In ORDER BY a bare name means a column of the result before one of the source, so
 * names that mean something else there keep the alias of their source.
 */
function orderOf({ items, limit }: Block, bare: (expression: Expression) => Expression): readonly Order[] {
  const replaced = new Set(
    items
      .filter(({ name, expression }) => expression.kind !== "column" || expression.name !== name)
      .map(({ name }) => name),
  );
  return (limit?.order ?? []).map((order) => {
    const isReplaced = columnsOf(order.expression).some((name) => replaced.has(name));
    return { ...order, expression: isReplaced ? order.expression : bare(order.expression) };
  });
}

function printConjunct(expression: Expression, print: Print): string {
  return expression.kind === "binary" && expression.operator === "or"
    ? `(${print(expression)})`
    : print(expression);
}
