import { hidden } from "../names/hidden";
import { cast, NULL, text, type Expression } from "../expression/ast";
import { inputsOf, withInputs, type Relation } from "../relation/relation";
import type { ValueType } from "../value-type";
import type { CheckedPlan } from "./plan";

/** Rows that a question is given with it, as its statement names them. */
export const GIVEN = hidden("given");

/** A value that a question about one row is given: a column as it is before the first step that learns. */
export interface GivenParameter {
  readonly name: string;
  /** Its type in PostgreSQL; "other" and "sparse" cannot be given. */
  readonly type: ValueType | "jsonb";
}

/** Columns that a relation reads of the rows it is given. */
function readOfGiven(relation: Relation): readonly string[] {
  return relation.kind === "given" ? relation.columns : [...new Set(inputsOf(relation).flatMap(readOfGiven))];
}

/** What has to be given for a relation over given rows to be answered, in the order of the columns. */
export function givenParameters(plan: CheckedPlan, relation: Relation): readonly GivenParameter[] {
  const read = new Set(readOfGiven(relation));
  const before = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  return [...before]
    .filter(([column]) => read.has(column))
    .map(([column, state]) => ({ name: column, type: state.type === "json" ? "jsonb" : state.type }));
}

/**
 * A relation over given rows for one row that is known.
 * @param values by column, as text; null and what is left out count as missing
 */
export function withGivenRow(
  relation: Relation,
  parameters: readonly GivenParameter[],
  values: Readonly<Record<string, string | null>>,
): Relation {
  if (relation.kind !== "given")
    return withInputs(relation, (input) => withGivenRow(input, parameters, values));
  const known = parameters.filter(({ name }) => relation.columns.includes(name));
  const row = known.map(({ name, type }): Expression => {
    const value = values[name] ?? null;
    return cast(value === null ? NULL : text(value), type === "jsonb" ? "json" : type);
  });
  return { kind: "constants", name: GIVEN, columns: known.map(({ name }) => name), rows: [row] };
}
