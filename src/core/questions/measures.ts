import type { z } from "zod";
import type { Expression } from "../expression/ast";
import { aggregateRows, type NamedExpression, type Relation } from "../relation/relation";

/** An aggregate, and the form of its value. */
export interface Measure<Value> {
  readonly expression: Expression;
  readonly schema: z.ZodType<Value>;
}

/** The values of a list of measures or of named measures. */
export type ValuesOf<Measures> = {
  readonly [Name in keyof Measures]: Measures[Name] extends Measure<infer Value> ? Value : never;
};

type Measures = Readonly<Record<string, Measure<unknown>>>;

const nameOf = (place: number, measure: string): string => `${measure}_${place}`;

/** The same measures of several subjects (columns, parts, classes), as one row. */
export function measureAll<Named extends Measures>(
  input: Relation,
  subjects: readonly Named[],
): { readonly relation: Relation; readonly read: (row: unknown) => readonly ValuesOf<Named>[] } {
  const measures = subjects.flatMap((named, place) =>
    Object.entries(named).map(([measure, { expression }]): NamedExpression => ({
      name: nameOf(place, measure),
      expression,
    })),
  );
  return {
    relation: aggregateRows(input, [], measures),
    read: (row) => {
      const values = row as Readonly<Record<string, unknown>>;
      return subjects.map((named, place) => {
        const read = Object.entries(named).map(([measure, { schema }]) => [
          measure,
          schema.parse(values[nameOf(place, measure)]),
        ]);
        return Object.fromEntries(read) as ValuesOf<Named>;
      });
    },
  };
}
