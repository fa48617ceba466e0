import { format } from "sql-formatter";

/** Statements longer than this are shown as they are: laying them out would take longer than reading them helps. */
const LONGEST = 20_000;

/** SQL laid out for reading; what the formatter can not read stays as it was. */
export function layOutSql(sql: string): string {
  if (sql.length > LONGEST) return sql;
  try {
    return format(sql, { language: "postgresql", keywordCase: "upper", expressionWidth: 100 });
  } catch {
    return sql;
  }
}
