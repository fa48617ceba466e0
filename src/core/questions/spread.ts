import { z } from "zod";
import {
  allOf,
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  double,
  isNotNull,
  isNull,
  text,
  truth,
  type Expression,
} from "../expression/ast";
import {
  GRID_SHARES,
  numberParts,
  partCount,
  type ColumnSpread,
  type NumberPart,
  type SpreadShape,
} from "../evaluate/spread";
import { aggregateRows, filter, project, type Relation } from "../relation/relation";
import { measureAll, type Measure } from "./measures";
import { doubleValue, type Question } from "./question";

/** Most frequent levels of a category that are told apart. */
export const MOST_LEVELS = 12;
/** Further levels that are listed, so that what training never saw can be told from them. */
export const MOST_OTHER_LEVELS = 400;

const valueOf = (name: string): Expression => asDouble(column(name));
const doubleOf = (expression: Expression): Measure<number> => ({
  expression: asDouble(expression),
  schema: doubleValue,
});
const rowsWhere = (condition: Expression): Measure<number> => doubleOf(countWhere(condition));

/** Values of a number at {@link GRID_SHARES} of its rows, and how many different ones it has. */
export interface NumberGrid {
  /** Null where a column has no value. */
  readonly values: readonly (number | null)[] | null;
  readonly distinct: number;
}

/** How number columns are spread: the grid of each. @param rows the rows looked at */
export function gridQuestion(rows: Relation, names: readonly string[]): Question<readonly NumberGrid[]> {
  const { relation, read } = measureAll(
    rows,
    names.map((name) => ({
      values: {
        expression: call("quantiles", ...GRID_SHARES.map(double), valueOf(name)),
        schema: z.array(doubleValue.nullable()).nullable(),
      },
      distinct: doubleOf({ ...call("count", valueOf(name)), distinct: true }),
    })),
  );
  return { relation, purpose: "how each number is spread", read: ([row]) => read(row) };
}

/** All different values of number columns, in no order, null for a gap. */
export function distinctQuestion(
  rows: Relation,
  names: readonly string[],
): Question<readonly (readonly (number | null)[])[]> {
  const { relation, read } = measureAll(
    rows,
    names.map((name) => ({
      values: {
        expression: call("distinct_values", valueOf(name)),
        schema: z.array(doubleValue.nullable()).nullable(),
      },
    })),
  );
  return {
    relation,
    purpose: "values of numbers that have few",
    read: ([row]) => read(row).map(({ values }) => values ?? []),
  };
}

const levelRow = z.object({ level: z.string() });

/** The levels of a category, the most frequent first; one more than can be listed where they are too many. */
export function levelsQuestion(rows: Relation, name: string): Question<readonly string[]> {
  const known = project(filter(rows, isNotNull(column(name))), [
    { name: "level", expression: cast(column(name), "text") },
  ]);
  const counted = aggregateRows(known, ["level"], [{ name: "rows", expression: countRows }]);
  return {
    relation: {
      kind: "limit",
      input: counted,
      order: [{ expression: column("rows"), descending: true }, { expression: column("level") }],
      rows: MOST_LEVELS + MOST_OTHER_LEVELS + 1,
    },
    purpose: `values of ${name}`,
    read: (found) =>
      z
        .array(levelRow)
        .parse(found)
        .map(({ level }) => level),
  };
}

function isWithin(name: string, { from, to }: NumberPart): Expression {
  const bounds = [
    ...(from ? [binary(valueOf(name), from.above ? ">" : ">=", double(from.at))] : []),
    ...(to ? [binary(valueOf(name), to.above ? "<=" : "<", double(to.at))] : []),
  ];
  return bounds.length === 0 ? isNotNull(column(name)) : allOf(bounds);
}

function categoryParts({ column: name, levels, others }: SpreadShape): readonly Expression[] {
  const level = cast(column(name), "text");
  const isAmong = (among: readonly string[], negated: boolean): Expression => {
    if (among.length === 0) return negated ? isNotNull(column(name)) : truth(false);
    return { kind: "in", operand: level, values: among.map(text), negated };
  };
  return [
    ...levels.map((known) => binary(level, "=", text(known))),
    ...(others === undefined ? [] : [isAmong(others, false)]),
    isAmong([...levels, ...(others ?? [])], true),
  ];
}

/** Conditions of the parts of a column. */
const partsOf = (shape: SpreadShape): readonly Expression[] =>
  shape.kind === "number"
    ? numberParts(shape).map((part) => isWithin(shape.column, part))
    : categoryParts(shape);

/** Rows in each part of each column, and those without a value. */
export function spreadQuestion(
  rows: Relation,
  shapes: readonly SpreadShape[],
): Question<readonly ColumnSpread[]> {
  const conditions = shapes.map((shape) => [isNull(column(shape.column)), ...partsOf(shape)]);
  const { relation, read } = measureAll(
    rows,
    conditions.flat().map((condition) => ({ rows: rowsWhere(condition) })),
  );
  return {
    relation,
    purpose: "rows in each part of each column",
    read: ([row]) => {
      const left = read(row).map((measured) => measured.rows);
      return shapes.map((shape, place) => {
        const [missing, ...counts] = left.splice(0, conditions[place]!.length);
        return { ...shape, missing: missing!, counts };
      });
    },
  };
}

/** Expressions that one SELECT may have, with room to spare (PostgreSQL stops at 1,664). */
const MOST_MEASURES = 1200;

/** Shapes in groups that one statement can count. */
export function inStatements(shapes: readonly SpreadShape[]): readonly (readonly SpreadShape[])[] {
  const groups: SpreadShape[][] = [];
  let room = 0;
  for (const shape of shapes) {
    const needed = partCount(shape) + 1;
    if (needed > room) {
      groups.push([]);
      room = MOST_MEASURES;
    }
    groups.at(-1)!.push(shape);
    room -= needed;
  }
  return groups;
}
