import { hasSqlDetails, parseSync } from "libpg-query";
import { shortenText } from "../format/shorten-text";
import { failure, problem, success, warning, type Problem, type Result } from "../problem";
import { valueTypeFromName, type ValueType } from "../value-type";
import type { LoadedType } from "./look";

export interface DefinedColumn {
  readonly name: string;
  /** The type as PostgreSQL writes it, from a list of those allowed, such as numeric(10,2). */
  readonly declared: string;
  /** What its values are read as. */
  readonly type: LoadedType;
  readonly required: boolean;
}

/** A table as a CREATE TABLE statement defines it. */
export interface TableDefinition {
  readonly name: string;
  readonly columns: readonly DefinedColumn[];
  readonly primaryKey: readonly string[];
  readonly unique: readonly (readonly string[])[];
  readonly references: readonly {
    readonly columns: readonly string[];
    readonly table: string;
    readonly targets: readonly string[];
  }[];
  readonly comment?: string;
}

type Raw = Readonly<Record<string, unknown>>;

/** Types that may stand in a definition, by the parser's names, as they are written again. */
const TYPES: Readonly<Record<string, string>> = {
  bool: "boolean",
  boolean: "boolean",
  int2: "smallint",
  smallint: "smallint",
  int4: "integer",
  integer: "integer",
  int: "integer",
  int8: "bigint",
  bigint: "bigint",
  serial: "integer",
  serial4: "integer",
  bigserial: "bigint",
  serial8: "bigint",
  numeric: "numeric",
  decimal: "numeric",
  float4: "real",
  real: "real",
  float8: "double precision",
  text: "text",
  varchar: "character varying",
  bpchar: "character",
  char: "character",
  date: "date",
  time: "time",
  timestamp: "timestamp",
  timestamptz: "timestamp with time zone",
  interval: "interval",
  uuid: "uuid",
  json: "json",
  jsonb: "jsonb",
};
const MODIFIED: readonly string[] = ["numeric", "character varying", "character"];

const asRaw = (value: unknown): Raw => (typeof value === "object" && value !== null ? (value as Raw) : {});
const asList = (value: unknown): readonly Raw[] => (Array.isArray(value) ? (value as readonly Raw[]) : []);
const strings = (value: unknown): readonly string[] =>
  asList(value).map((node) => String(asRaw(node["String"])["sval"] ?? ""));

function typeOf(typeName: Raw): { readonly declared: string; readonly type: LoadedType } | undefined {
  const name = strings(typeName["names"]).at(-1) ?? "";
  const base = TYPES[name];
  if (base === undefined || asList(typeName["arrayBounds"]).length > 0) return undefined;
  const modifiers = asList(typeName["typmods"]).map((node) =>
    Number(asRaw(asRaw(node["A_Const"])["ival"])["ival"] ?? 0),
  );
  const declared =
    MODIFIED.includes(base) &&
    modifiers.length > 0 &&
    modifiers.every((modifier) => Number.isInteger(modifier) && modifier >= 0 && modifier <= 10_485_760)
      ? `${base}(${modifiers.join(",")})`
      : base;
  const value = valueTypeFromName(base);
  return { declared, type: loadedType(value) };
}

/** The type that a column of another one is loaded as. */
function loadedType(type: ValueType): LoadedType {
  switch (type) {
    case "real":
      return "double precision";
    case "json":
      return "jsonb";
    case "interval":
    case "uuid":
    case "other":
    case "sparse":
      return "text";
    default:
      return type;
  }
}

/** Characters of the parser's message, which names a word of the file however long it is. */
const MOST_SHOWN = 120;

/** What was understood of a file of statements. */
export interface DefinitionsRead {
  readonly tables: readonly TableDefinition[];
  /** What is not taken, each with its line. A table of which a part cannot be taken is not among the tables. */
  readonly left: readonly Problem[];
}

/**
 * Reads CREATE TABLE (and COMMENT ON TABLE) statements. Problems: sql_syntax, no_tables, and those of what cannot be taken.
 * Other statements are passed over; {@link readDefinitions} names them.
 */
export function readTableDefinitions(text: string): Result<readonly TableDefinition[]> {
  const { tables, left } = readDefinitions(text);
  const problems = left.filter(({ severity }) => severity === "error");
  if (tables.length === 0 && problems.length === 0)
    return failure(problem("no_tables", "The file defines no tables.", "Write CREATE TABLE statements."));
  return problems.length > 0 ? failure(...problems) : success(tables);
}

/**
 * Reads CREATE TABLE (and COMMENT ON TABLE) statements with PostgreSQL's own grammar. What was understood is written again by us; no
 * text of the file reaches a database. Whatever else the file holds is named with its line.
 */
export function readDefinitions(text: string): DefinitionsRead {
  let statements: readonly { readonly stmt?: Raw; readonly stmt_location?: number }[];
  try {
    statements = parseSync(text).stmts as typeof statements;
  } catch (error) {
    const cursor = hasSqlDetails(error) ? (error.sqlDetails?.cursorPosition ?? 0) : 0;
    const syntax = problem(
      "sql_syntax",
      `SQL ${shortenText(error instanceof Error ? error.message : "syntax error", MOST_SHOWN)}.`,
      "Only CREATE TABLE and COMMENT ON TABLE statements are read.",
      { line: text.slice(0, cursor).split("\n").length },
    );
    return { tables: [], left: [syntax] };
  }
  const left: Problem[] = [];
  const tables = new Map<string, TableDefinition>();
  for (const { stmt = {}, stmt_location: at = 0 } of statements) {
    const line = lineOf(text, at);
    const report: Report = (code, message, hint) => void left.push(problem(code, message, hint, { line }));
    const pass: Report = (code, message, hint) => void left.push(warning(code, message, hint, { line }));
    if (stmt["CreateStmt"] !== undefined) {
      const table = readTable(asRaw(stmt["CreateStmt"]), report, pass);
      if (tables.has(table.name)) report("duplicate_table", `The table "${table.name}" is defined twice.`);
      tables.set(table.name, table);
    } else if (stmt["CommentStmt"] !== undefined) {
      const comment = asRaw(stmt["CommentStmt"]);
      const name = strings(asRaw(asRaw(comment["object"])["List"])["items"]).at(-1);
      const known = name === undefined ? undefined : tables.get(name);
      if (comment["objtype"] === "OBJECT_TABLE" && known && typeof comment["comment"] === "string")
        tables.set(known.name, { ...known, comment: comment["comment"] });
    } else
      pass(
        "statement_unsupported",
        `Only CREATE TABLE and COMMENT ON TABLE are read; this statement (${Object.keys(stmt)[0]?.replace(/Stmt$/, "") ?? "of another kind"}) is skipped.`,
      );
  }
  return { tables: [...tables.values()], left };
}

type Report = (code: string, message: string, hint?: string) => void;

/** The line on which a statement begins. Its place is right behind the one before: line ends and remarks lie between. */
function lineOf(text: string, at: number): number {
  const before = Buffer.from(text).subarray(0, at).toString();
  const between = /^(?:\s|--[^\n]*|\/\*[^]*?\*\/)*/.exec(text.slice(before.length))?.[0] ?? "";
  return `${before}${between}`.split("\n").length;
}

const constraintWords = ({ contype }: Raw): string =>
  contype === "CONSTR_DEFAULT"
    ? "default value"
    : `${String(contype ?? "")
        .replace("CONSTR_", "")
        .toLowerCase()} constraint`;

/**
 * @param report is told of what makes the table impossible
 * @param pass is told of what is passed over
 */
function readTable(create: Raw, report: Report, pass: Report): TableDefinition {
  const name = String(asRaw(create["relation"])["relname"] ?? "");
  const columns: DefinedColumn[] = [];
  const unique: (readonly string[])[] = [];
  const references: TableDefinition["references"][number][] = [];
  let primaryKey: readonly string[] = [];
  const required = new Set<string>();
  const constraint = (raw: Raw, own: readonly string[]): void => {
    const keys = strings(raw["keys"]).length > 0 ? strings(raw["keys"]) : own;
    switch (raw["contype"]) {
      case "CONSTR_PRIMARY":
        primaryKey = keys;
        break;
      case "CONSTR_UNIQUE":
        unique.push(keys);
        break;
      case "CONSTR_NOTNULL":
        own.forEach((row) => required.add(row));
        break;
      case "CONSTR_NULL":
        break;
      case "CONSTR_FOREIGN":
        references.push({
          columns: strings(raw["fk_attrs"]).length > 0 ? strings(raw["fk_attrs"]) : own,
          table: String(asRaw(raw["pktable"])["relname"] ?? ""),
          targets: strings(raw["pk_attrs"]),
        });
        break;
      default:
        pass(
          "constraint_unsupported",
          `The table "${name}" has a ${constraintWords(raw)}, which is not imported.`,
          raw["contype"] === "CONSTR_CHECK" ? "Use a check step in the pipeline instead." : undefined,
        );
    }
  };
  for (const element of asList(create["tableElts"])) {
    if (element["ColumnDef"] !== undefined) {
      const raw = asRaw(element["ColumnDef"]);
      const column = String(raw["colname"] ?? "");
      const type = typeOf(asRaw(raw["typeName"]));
      if (!type)
        report(
          "type_unsupported",
          `The column "${column}" of "${name}" has a type that cannot be loaded: ${strings(asRaw(raw["typeName"])["names"]).join(".")}.`,
          "Choose a number, text, date, time, boolean, uuid or json type.",
        );
      else columns.push({ name: column, ...type, required: false });
      asList(raw["constraints"]).forEach((node) => constraint(asRaw(node["Constraint"]), [column]));
    } else if (element["Constraint"] !== undefined) constraint(asRaw(element["Constraint"]), []);
    else
      report(
        "element_unsupported",
        `The definition of "${name}" contains an unsupported clause.`,
        "Use columns, keys and references only.",
      );
  }
  return {
    name,
    columns: columns.map((column) => ({
      ...column,
      required: required.has(column.name) || primaryKey.includes(column.name),
    })),
    primaryKey,
    unique,
    references,
  };
}
