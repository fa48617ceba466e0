import { format } from "sql-formatter";

/** Statements longer than this are shown as they are: laying them out would take longer than reading them helps. */
const LONGEST = 20_000;

/** The formatter takes the FROM inside extract() for a clause and breaks the line there; short ones are put together again. */
const BROKEN_EXTRACT = /extract\(\s*(\w+)\s+FROM\s+([^()]*?)\s*\)/gi;

/** SQL laid out for reading; what the formatter can not read stays as it was. */
export function layOutSql(sql: string): string {
  if (sql.length > LONGEST) return sql;
  try {
    const laidOut = format(sql, { language: "postgresql", keywordCase: "upper", expressionWidth: 100 });
    return laidOut.replace(
      BROKEN_EXTRACT,
      (_, field: string, operand: string) => `extract(${field} FROM ${operand.replaceAll(/\s+/g, " ")})`,
    );
  } catch {
    return sql;
  }
}
