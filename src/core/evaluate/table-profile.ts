/** One bar of a histogram: from this value to that, and how many rows. */
export interface HistogramBar {
  readonly from: string;
  readonly to: string;
  readonly rows: number;
}

/** A summary of one column over all rows, computed in the database. */
export interface ColumnProfile {
  readonly column: string;
  readonly rows: number;
  readonly missing: number;
  readonly distinct: number;
  readonly smallest: string | null;
  readonly largest: string | null;
  /** For numbers and moments: the quartiles. */
  readonly quartiles: readonly [string, string, string] | null;
  readonly mean: number | null;
  readonly histogram: readonly HistogramBar[];
  readonly topValues: readonly { readonly value: string; readonly rows: number }[];
}

/** What else is worth knowing of a column. */
export interface ColumnRemarks {
  /** For texts: length in characters, and how many are empty. */
  readonly lengths?: {
    readonly shortest: number;
    readonly median: number;
    readonly longest: number;
    readonly empty: number;
  };
  /** For numbers: values further than 3 distances between quartiles outside of them. */
  readonly outliers?: { readonly rows: number; readonly below: number; readonly above: number };
  /** For moments: rows by month. */
  readonly months?: readonly { readonly month: string; readonly rows: number }[];
  /** Spellings that are probably one category: the most frequent first. */
  readonly spellings?: readonly (readonly { readonly value: string; readonly rows: number }[])[];
  readonly constant: boolean;
  readonly likelyKey: boolean;
}

/** All columns of a table. */
export interface TableProfile {
  readonly rows: number;
  readonly columns: readonly (ColumnProfile & { readonly remarks: ColumnRemarks })[];
  /** Milliseconds it took. */
  readonly took: number;
}
