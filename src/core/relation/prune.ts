import { fromOtherSide } from "../expression/sides";
import { columnsOf } from "../expression/visit";
import { keepColumns, outputColumns, type Relation } from "./relation";

/**
 * Removes columns nobody reads, so that the SQL shown and run is no wider than its purpose.
 * Rows never change: filters and joins stay.
 */
export function prune(relation: Relation, needed: ReadonlySet<string>): Relation {
  switch (relation.kind) {
    case "table":
    case "given":
      return { ...relation, columns: relation.columns.filter((name) => needed.has(name)) };
    // A row of constants is short; and other parents may read what this one does not.
    case "constants":
    case "common":
      return relation;
    case "label":
    case "sample":
    case "fence":
      return { ...relation, input: prune(relation.input, needed) };
    case "project": {
      const items = relation.items.filter((item) => needed.has(item.name));
      return {
        ...relation,
        items,
        input: prune(relation.input, new Set(items.flatMap((item) => columnsOf(item.expression)))),
      };
    }
    case "filter":
      return {
        ...relation,
        input: prune(relation.input, new Set([...needed, ...columnsOf(relation.condition)])),
      };
    case "join": {
      const take = relation.take.filter((pair) => needed.has(pair.name));
      const compared = relation.condition ? columnsOf(relation.condition) : [];
      const left = new Set([
        ...outputColumns(relation.left).filter((name) => needed.has(name)),
        ...relation.on.map((pair) => pair.left),
        ...compared.filter((name) => fromOtherSide(name) === undefined),
      ]);
      const right = new Set([
        ...take.map((pair) => pair.from),
        ...relation.on.map((pair) => pair.right),
        ...compared.flatMap((name) => fromOtherSide(name) ?? []),
      ]);
      return { ...relation, take, left: prune(relation.left, left), right: prune(relation.right, right) };
    }
    case "union": {
      const inputs = relation.inputs.map((input) => prune(input, needed));
      const columns = outputColumns(inputs[0]!);
      // Inputs need not lose the same columns (a filter keeps what it reads), but their rows must fit together.
      return {
        ...relation,
        inputs: inputs.map((input) =>
          keepColumns(
            input,
            columns.filter((name) => needed.has(name)),
          ),
        ),
      };
    }
    case "limit":
      return {
        ...relation,
        input: prune(
          relation.input,
          new Set([...needed, ...relation.order.flatMap((order) => columnsOf(order.expression))]),
        ),
      };
    case "unpivot": {
      const keep = relation.keep.filter((name) => needed.has(name));
      return {
        ...relation,
        keep,
        input: prune(
          relation.input,
          new Set([...keep, ...relation.columns.flatMap((column) => columnsOf(column.expression))]),
        ),
      };
    }
    case "words": {
      const keep = relation.keep.filter((name) => needed.has(name));
      return {
        ...relation,
        keep,
        input: prune(relation.input, new Set([...keep, ...columnsOf(relation.text)])),
      };
    }
    case "aggregate": {
      const measures = relation.measures.filter((measure) => needed.has(measure.name));
      const inner = new Set([
        ...relation.by,
        ...measures.flatMap((measure) => columnsOf(measure.expression)),
      ]);
      return { ...relation, measures, input: prune(relation.input, inner) };
    }
  }
}

/** The same rows and columns, without what is computed on the way and read by nobody. */
export const pruneUnread = (relation: Relation): Relation =>
  prune(relation, new Set(outputColumns(relation)));
