/** Formats that rows can be exported as, with their names. */
export const EXPORT_FORMATS = [
  ["csv", "CSV"],
  ["parquet", "Parquet"],
  ["jsonl", "JSON Lines"],
] as const;
