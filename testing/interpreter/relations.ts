import { otherSide } from "@/core/expression/sides";
import type { NamedExpression, Relation } from "@/core/relation/relation";
import type { Column, Place } from "./compiled";
import { Compiler } from "./compile";
import { asOneType, castTo } from "./operators";
import { wordRuns } from "./special";
import { keyOf, type Value } from "./values";
import { sortedBy } from "./windows";

/** Rows with their columns. */
export interface Rows {
  readonly columns: readonly Column[];
  readonly rows: readonly (readonly Value[])[];
}

/** What a relation is computed from. */
export interface Source {
  readonly table: (schema: string, table: string) => Rows;
  /** The logical time, as an ISO 8601 text. */
  readonly runTime: string;
}

type Kind<Name extends Relation["kind"]> = Extract<Relation, { kind: Name }>;

function placeOf({ columns }: Rows, name: string): number {
  const place = columns.findIndex((column) => column.name === name);
  if (place < 0) throw new Error(`no column ${name} in ${columns.map((column) => column.name).join(", ")}`);
  return place;
}

/** Computes relations, node by node: slowly, and as plainly as it goes. */
export class Interpreter {
  private readonly shared = new Map<Relation, Rows>();

  constructor(private readonly source: Source) {}

  rowsOf(relation: Relation): Rows {
    switch (relation.kind) {
      case "table": {
        const found = this.source.table(relation.source.schema, relation.source.table);
        const places = relation.columns.map((name) => placeOf(found, name));
        return {
          columns: places.map((place) => found.columns[place]!),
          rows: found.rows.map((row) => places.map((place) => row[place] ?? null)),
        };
      }
      case "given":
        throw new Error("given rows are given by a call");
      case "constants": {
        const compiler = this.compiler([]);
        const compiled = relation.rows.map((row) => row.map((value) => compiler.compile(value)));
        return {
          columns: relation.columns.map((name, place) => ({
            name,
            type: compiled[0]?.[place]?.type ?? "unknown",
          })),
          rows: compiled.map((row) => row.map((value) => value.at({ row: [], rows: [] }))),
        };
      }
      case "label":
      case "fence":
      case "sample":
        return this.rowsOf(relation.input);
      case "common": {
        const rows = this.shared.get(relation) ?? this.rowsOf(relation.input);
        this.shared.set(relation, rows);
        return rows;
      }
      case "project":
        return this.project(this.rowsOf(relation.input), relation.items);
      case "filter": {
        const input = this.rowsOf(relation.input);
        const condition = this.compiler(input.columns).compile(relation.condition);
        const { rows } = input;
        return { ...input, rows: rows.filter((row) => condition.at({ row, rows }) === true) };
      }
      case "join":
        return this.join(relation);
      case "union": {
        const inputs = relation.inputs.map((input) => this.rowsOf(input));
        return this.union(inputs);
      }
      case "limit": {
        const input = this.rowsOf(relation.input);
        const compiler = this.compiler(input.columns);
        const order = relation.order.map(({ expression, descending = false }) => ({
          expression: compiler.compile(expression),
          descending,
        }));
        const from = relation.offset ?? 0;
        return { ...input, rows: sortedBy(input.rows, order).slice(from, from + relation.rows) };
      }
      case "unpivot":
        return this.unpivot(relation);
      case "words":
        return this.words(relation);
      case "aggregate":
        return this.aggregate(relation);
    }
  }

  private compiler(columns: readonly Column[]): Compiler {
    return new Compiler(columns, this.source.runTime);
  }

  private project({ columns, rows }: Rows, items: readonly NamedExpression[]): Rows {
    const compiler = this.compiler(columns);
    const compiled = items.map(({ expression }) => compiler.compile(expression));
    return {
      columns: items.map(({ name }, place) => ({ name, type: compiled[place]!.type })),
      rows: rows.map((row) => compiled.map((item) => item.at({ row, rows }))),
    };
  }

  /** Columns of all inputs by their places in the first, with a type that all of them have. */
  private union(inputs: readonly Rows[]): Rows {
    const [first] = inputs;
    const types = first!.columns.map(({ name }) => {
      const parts = inputs.map(({ columns }) => {
        const place = placeOf({ columns, rows: [] }, name);
        return { type: columns[place]!.type, at: ({ row }: Place) => row[place] ?? null };
      });
      return { name, parts, type: asOneType(parts)[0]!.type };
    });
    return {
      columns: types.map(({ name, type }) => ({ name, type })),
      rows: inputs.flatMap(({ rows }, input) =>
        rows.map((row) => types.map(({ parts, type }) => castTo(parts[input]!, type).at({ row, rows }))),
      ),
    };
  }

  private join(relation: Kind<"join">): Rows {
    const [left, right] = [this.rowsOf(relation.left), this.rowsOf(relation.right)];
    const both: readonly Column[] = [
      ...left.columns,
      ...right.columns.map(({ name, type }) => ({ name: otherSide(name), type })),
    ];
    const condition = relation.condition && this.compiler(both).compile(relation.condition);
    const [here, there] = [this.compiler(left.columns), this.compiler(right.columns)];
    const keys = relation.on.map((pair) =>
      asOneType([
        here.compile({ kind: "column", name: pair.left }),
        there.compile({ kind: "column", name: pair.right }),
      ]),
    );
    /** What rows that belong together have in common; nothing where a part is missing, which equals nothing. */
    const keyOfRow = (side: 0 | 1, row: readonly Value[]): string | undefined => {
      const values = keys.map((pair) => pair[side]!.at({ row, rows: [] }));
      if (values.includes(null)) return undefined;
      return values.map((value, index) => keyOf(keys[index]![side]!.type, value)).join("\u0000");
    };
    const byKey = new Map<string | undefined, (readonly Value[])[]>();
    for (const row of right.rows) {
      const key = keyOfRow(1, row);
      const known = byKey.get(key) ?? [];
      known.push(row);
      byKey.set(key, known);
    }
    const taken = relation.take.map(({ from }) => placeOf(right, from));
    const rows = left.rows.flatMap((row) => {
      const key = keyOfRow(0, row);
      const equal = key === undefined ? [] : (byKey.get(key) ?? []);
      const matches = equal.filter(
        (other) => !condition || condition.at({ row: [...row, ...other], rows: [] }) === true,
      );
      const joined = matches.map((other) => [...row, ...taken.map((place) => other[place] ?? null)]);
      const alone = relation.how === "left" && joined.length === 0;
      return alone ? [[...row, ...taken.map(() => null)]] : joined;
    });
    const more = relation.take.map(({ name }, index) => ({ name, type: right.columns[taken[index]!]!.type }));
    return { columns: [...left.columns, ...more], rows };
  }

  private unpivot(relation: Kind<"unpivot">): Rows {
    const input = this.rowsOf(relation.input);
    const compiler = this.compiler(input.columns);
    const values = asOneType(relation.columns.map(({ expression }) => compiler.compile(expression)));
    const kept = relation.keep.map((name) => compiler.compile({ kind: "column", name }));
    const byPlace = relation.named === "by place";
    return {
      columns: [
        ...relation.keep.map((name, place) => ({ name, type: kept[place]!.type })),
        { name: relation.nameColumn, type: byPlace ? "integer" : "text" },
        { name: relation.valueColumn, type: values[0]?.type ?? "unknown" },
      ],
      rows: input.rows.flatMap((row) =>
        values.map((value, index) => {
          const place = { row, rows: input.rows };
          const name = byPlace ? BigInt(index) : relation.columns[index]!.name;
          return [...kept.map((column) => column.at(place)), name, value.at(place)];
        }),
      ),
    };
  }

  private words(relation: Kind<"words">): Rows {
    const input = this.rowsOf(relation.input);
    const compiler = this.compiler(input.columns);
    const text = castTo(compiler.compile(relation.text), "text");
    const kept = relation.keep.map((name) => compiler.compile({ kind: "column", name }));
    return {
      columns: [
        ...relation.keep.map((name, place) => ({ name, type: kept[place]!.type })),
        { name: relation.wordColumn, type: "text" },
      ],
      rows: input.rows.flatMap((row) => {
        const place = { row, rows: input.rows };
        const value = text.at(place);
        const runs = value === null ? [] : wordRuns(value as string, relation.longest);
        return runs.map((run) => [...kept.map((column) => column.at(place)), run]);
      }),
    };
  }

  private aggregate(relation: Kind<"aggregate">): Rows {
    const input = this.rowsOf(relation.input);
    const compiler = this.compiler(input.columns);
    const keys = relation.by.map((name) => compiler.compile({ kind: "column", name }));
    const measures = relation.measures.map(({ expression }) => compiler.compile(expression));
    const groups = new Map<string, (readonly Value[])[]>(relation.by.length === 0 ? [["", []]] : []);
    for (const row of input.rows) {
      const key = keys.map((part) => keyOf(part.type, part.at({ row, rows: input.rows }))).join("\u0000");
      const group = groups.get(key) ?? [];
      group.push(row);
      groups.set(key, group);
    }
    return {
      columns: [
        ...relation.by.map((name, place) => ({ name, type: keys[place]!.type })),
        ...relation.measures.map(({ name }, place) => ({ name, type: measures[place]!.type })),
      ],
      rows: [...groups.values()].map((group) => {
        const place: Place = { row: group[0] ?? [], rows: input.rows, group };
        return [...keys, ...measures].map((part) => part.at(place));
      }),
    };
  }
}
