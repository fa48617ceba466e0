/** Words that PostgreSQL 15 reads as something else than a column where they are not quoted (`pg_get_keywords()`, categories R and T). */
const RESERVED = new Set(
  `all analyse analyze and any array as asc asymmetric authorization binary both case cast check collate collation column
  concurrently constraint create cross current_catalog current_date current_role current_schema current_time current_timestamp
  current_user default deferrable desc distinct do else end except false fetch for foreign freeze from full grant group having ilike
  in initially inner intersect into is isnull join lateral leading left like limit localtime localtimestamp natural not notnull null
  offset on only or order outer overlaps placing primary references returning right select session_user similar some symmetric table
  tablesample then to trailing true union unique user using variadic verbose when where window with`.split(
    /\s+/,
  ),
);
const PLAIN = /^[a-z_][a-z0-9_]*$/;

/** A column's name as it is written in an expression: as it is, or in double quotes where PostgreSQL would read it otherwise. */
export const writeColumnName = (name: string): string =>
  PLAIN.test(name) && !RESERVED.has(name) ? name : `"${name.replaceAll('"', '""')}"`;
