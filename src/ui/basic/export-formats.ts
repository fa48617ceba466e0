/** Formats that rows can be exported as, with their names. */
export const EXPORT_FORMATS = [
  ["csv", "CSV"],
  ["csv-exact", "CSV, unescaped"],
  ["parquet", "Parquet"],
  ["jsonl", "JSON Lines"],
] as const;
