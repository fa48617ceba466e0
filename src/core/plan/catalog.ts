import type { TableReference } from "../relation/relation";
import type { ValueType } from "../value-type";

export interface CatalogColumn {
  readonly name: string;
  readonly type: ValueType;
  /** The type as the warehouse itself writes it, with length and precision. */
  readonly declared: string;
  readonly nullable: boolean;
}

export interface CatalogTable extends TableReference {
  readonly columns: readonly CatalogColumn[];
}

/** What the compiler knows of a warehouse: names and types, no rows. */
export interface Catalog {
  readonly tables: readonly CatalogTable[];
}

export const findTable = (catalog: Catalog, wanted: TableReference): CatalogTable | undefined =>
  catalog.tables.find((table) => table.schema === wanted.schema && table.table === wanted.table);
