import { cast, column, type Expression } from "../expression/ast";
import { project, table, type Relation, type TableReference } from "../relation/relation";
import { isInteger, isNumber, type ValueType } from "../value-type";
import type { CatalogColumn } from "./catalog";
import type { CheckedStrand } from "./plan";

/** Other rows in the place of those that the main strand begins with. Steps, and what they learned, stay the same. */
export interface StandIn {
  readonly source: TableReference;
  /** Columns that are there, with the types they have there. */
  readonly columns: ReadonlyMap<string, ValueType>;
}

/** A column that rows of another origin have to have, with the type that the pipeline was checked with. */
export interface ContractColumn {
  readonly name: string;
  readonly type: ValueType;
  /** The type as the warehouse writes it. */
  readonly declared: string;
}

/** The name that a column has in the table that a strand begins with. */
export const sourceColumn = ({ renamed }: Pick<CheckedStrand, "renamed">, name: string): string =>
  renamed?.get(name) ?? name;

/** The rows of the table that a strand begins with, under the names that its columns have in the strand. */
export function startRows(strand: CheckedStrand, source: TableReference): Relation {
  const names = [...strand.start.keys()];
  const rows = table(
    source,
    names.map((name) => sourceColumn(strand, name)),
  );
  if (!strand.renamed) return rows;
  return project(
    rows,
    names.map((name) => ({ name, expression: column(sourceColumn(strand, name)) })),
  );
}

/** Rows of another table as the main strand's beginning: with every column of it, in the type that the steps expect. */
export function standInRows(strand: CheckedStrand, { source, columns }: StandIn): Relation {
  const names = [...strand.start.keys()];
  const owns = names.map((name) => sourceColumn(strand, name));
  return project(
    table(source, owns),
    names.map((name, place) => ({
      name,
      expression: asExpected(
        owns[place]!,
        columns.get(owns[place]!),
        strand.start.get(name)?.type ?? "other",
      ),
    })),
  );
}

function asExpected(name: string, given: ValueType | undefined, wanted: ValueType): Expression {
  const isTheSame = given === undefined || given === wanted || wanted === "other";
  // A wider whole number holds the same values.
  return isTheSame || (isInteger(given) && isInteger(wanted)) ? column(name) : cast(column(name), wanted);
}

/** Types that a text can be read as where a file is all there is. */
const READ_FROM_TEXT: readonly ValueType[] = ["uuid", "interval", "other"];

/** Whether values of a column stand for those that the pipeline was trained with, without a guess. */
export function fitsContract(
  given: Pick<CatalogColumn, "type" | "declared">,
  wanted: Pick<ContractColumn, "type" | "declared">,
): boolean {
  if (given.type === wanted.type && wanted.type !== "other") return true;
  if (given.declared === wanted.declared) return true;
  if (isInteger(wanted.type)) return isInteger(given.type);
  if (isNumber(wanted.type)) return isNumber(given.type);
  return given.type === "text" && READ_FROM_TEXT.includes(wanted.type);
}
