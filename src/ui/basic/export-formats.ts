/** Formats that rows can be exported as, with their names. */
export const EXPORT_FORMATS = [
  ["csv", "CSV"],
  ["csv-exact", "CSV, texts exactly as they are"],
  ["parquet", "Parquet"],
  ["jsonl", "JSON Lines"],
] as const;
