/** Who may do what in a warehouse. */
export interface GrantWish {
  readonly database: string;
  readonly reader: string;
  readonly writer: string;
  /** Schemas that the writer owns: for predictions, scratch tables, and tables loaded from files. */
  readonly own: readonly string[];
  /** Schemas whose tables are read. */
  readonly read: readonly string[];
  /** Roles that make tables in the schemas that are read; their next tables can be read too. */
  readonly owners: readonly string[];
  /** Temporary disk that one session may take, such as 20GB; as the server has it when left out. */
  readonly temporary?: string;
}
