import { hidden } from "../names/hidden";
import { allOf, binary, cast, column, integer, text, type Expression } from "../expression/ast";
import type { Delivery } from "../pipeline/operating-schema";
import { parseTableName } from "../pipeline/table-name";
import { project, outputColumns, table, type Relation, type TableReference } from "../relation/relation";
import type { CheckedPlan } from "./plan";

/** Hidden column of staged rows: to which of a delivery's tables each goes. */
export const ROUTE_COLUMN = hidden("route");
/** Hidden column of rows that are looked up in the tables they may be in already. */
const KNOWN_COLUMN = hidden("known");

/** Tables of a delivery: the routes' in their order, and last the one for rows that no route takes. */
export const tablesOf = (delivery: Delivery): readonly TableReference[] =>
  [...delivery.routes.map((route) => route.table), delivery.table].map((name) => parseTableName(name)!);

/** Staged rows with the position of their table among {@link tablesOf}, when there are several. A condition that is NULL does not take a row. */
export function routed(plan: CheckedPlan, delivery: Delivery, rows: Relation): Relation {
  if (delivery.routes.length === 0) return rows;
  const branches = delivery.routes.map((route, index) => ({
    when: plan.expression(route.when),
    then: integer(index),
  }));
  const route: Expression = { kind: "case", branches, otherwise: integer(branches.length) };
  return project(rows, [
    ...outputColumns(rows).map((name) => ({ name, expression: column(name) })),
    { name: ROUTE_COLUMN, expression: route },
  ]);
}

/** Which of the rows that qualify are scored: those after the last one that landed, or those that no table holds. */
export interface FreshRows {
  /** A value of the column that rows are newer by, as text; undefined before anything has landed. */
  readonly after?: string | undefined;
  /** Tables that there are already. */
  readonly tables: readonly TableReference[];
}

/** The rows to score that a delivery asks for. */
export function freshRows(
  plan: CheckedPlan,
  delivery: Delivery,
  rows: Relation,
  { after, tables }: FreshRows,
): Relation {
  if (typeof delivery.rows === "object") {
    const name = delivery.rows.newer_by;
    const type = plan.main.output.get(name)?.type;
    return after === undefined || type === undefined
      ? rows
      : { kind: "filter", input: rows, condition: binary(column(name), ">", cast(text(after), type)) };
  }
  if (delivery.rows === "all") return rows;
  return tables.reduce<Relation>((left, target, index) => {
    const known = `${KNOWN_COLUMN}_${index}`;
    const kept = outputColumns(left);
    const joined: Relation = {
      kind: "join",
      how: "left",
      left,
      right: table(target, [...plan.file.roles.key, "run_id"]),
      on: plan.file.roles.key.map((name) => ({ left: name, right: name })),
      take: [{ from: "run_id", name: known }],
    };
    const fresh: Relation = {
      kind: "filter",
      input: joined,
      condition: allOf([{ kind: "is", operand: column(known), test: "null", negated: false }]),
    };
    return project(
      fresh,
      kept.map((name) => ({ name, expression: column(name) })),
    );
  }, rows);
}
