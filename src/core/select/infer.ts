import { checkExpression, type CheckedExpression } from "../expression/check";
import { NULL, type Expression } from "../expression/ast";
import { unify } from "../expression/functions";
import { fromOtherSide } from "../expression/sides";
import { columnsOf } from "../expression/visit";
import type { Problem } from "../problem";
import { outputColumns, type Relation } from "../relation/relation";
import type { ColumnSet, ColumnState } from "../steps/step";

export interface InferContext {
  /** Columns of a source, by the name of its table. */
  readonly source: (name: string) => ColumnSet;
  readonly report: (found: Problem) => void;
  readonly written: (name: string, checked: CheckedExpression, from: readonly ColumnState[]) => ColumnState;
}

const UNKNOWN: CheckedExpression = { type: "text", nullable: true };

/** Types and lineage of a relation's columns; every expression in it is checked on the way. */
export function inferColumns(relation: Relation, context: InferContext): ColumnSet {
  const check = (
    expression: Expression,
    columns: ColumnSet,
    aggregates: "required" | "forbidden" = "forbidden",
  ): CheckedExpression => {
    const checked = checkExpression(expression, { columns, aggregates });
    if (checked.ok) return checked.value;
    checked.problems.forEach(context.report);
    return UNKNOWN;
  };
  const made = (
    name: string,
    expression: Expression,
    columns: ColumnSet,
    aggregates?: "required",
  ): ColumnState => {
    const same = expression.kind === "column" ? columns.get(expression.name) : undefined;
    if (same) return { ...same, name };
    return context.written(
      name,
      check(expression, columns, aggregates),
      columnsOf(expression).flatMap((column) => columns.get(column) ?? []),
    );
  };
  const named = (states: readonly ColumnState[]): ColumnSet =>
    new Map(states.map((state) => [state.name, state]));
  switch (relation.kind) {
    // A statement that a person writes reads tables only.
    case "given":
    case "constants":
      return new Map();
    case "table":
      return context.source(relation.source.table);
    case "label":
    case "common":
    case "sample":
    case "fence":
      return inferColumns(relation.input, context);
    case "filter": {
      const columns = inferColumns(relation.input, context);
      check(relation.condition, columns);
      return columns;
    }
    case "limit": {
      const columns = inferColumns(relation.input, context);
      for (const order of relation.order) check(order.expression, columns);
      return columns;
    }
    case "project": {
      const columns = inferColumns(relation.input, context);
      return named(relation.items.map((item) => made(item.name, item.expression, columns)));
    }
    case "aggregate": {
      const columns = inferColumns(relation.input, context);
      const keys = relation.by.flatMap((name) => columns.get(name) ?? []);
      return named([
        ...keys,
        ...relation.measures.map((measure) => made(measure.name, measure.expression, columns, "required")),
      ]);
    }
    case "join": {
      const left = inferColumns(relation.left, context);
      const right = inferColumns(relation.right, context);
      const taken = relation.take.flatMap((pair) => {
        const state = right.get(pair.from);
        return state
          ? [{ ...state, name: pair.name, nullable: state.nullable || relation.how === "left" }]
          : [];
      });
      const compared = columnsOf(relation.condition ?? NULL).flatMap(
        (name): (readonly [string, ColumnState])[] => {
          const state = right.get(fromOtherSide(name) ?? "");
          return state ? [[name, state]] : [];
        },
      );
      if (relation.condition) check(relation.condition, new Map([...left, ...compared]));
      return named([...left.values(), ...taken]);
    }
    case "union": {
      const parts = relation.inputs.map((input) => inferColumns(input, context));
      return named(
        outputColumns(relation).map((name) => {
          const states = parts.flatMap((part) => part.get(name) ?? []);
          return context.written(
            name,
            {
              type: unify(states.map((state) => state.type)) ?? "text",
              nullable: states.some((state) => state.nullable),
            },
            states,
          );
        }),
      );
    }
    // A SELECT makes no others.
    case "unpivot":
    case "words":
      return inferColumns(relation.input, context);
  }
}
