import type { Problem } from "@/core/problem";

/** A table as the golden cases keep it: every value as text, gaps as null. */
export interface GoldenTable {
  readonly schema: string;
  readonly table: string;
  readonly columns: readonly { readonly name: string; readonly type: string; readonly notNull?: boolean }[];
  readonly key?: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
}

/** Values of rows as text, in the order of the columns of the case. */
export type TextRows = readonly (readonly (string | null)[])[];

/** Rows after the steps of a pipeline's main strand, and what its last step learned. */
export interface StepAnswer {
  readonly columns: readonly string[];
  readonly rows: TextRows;
  readonly learned: unknown;
}

/**
 * An answer, or why there is none: `refused:` and the code of the first problem, or `fails:` and the SQL
 * standard's name of the condition.
 */
export type Answer<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly failure: string };

/** A trained version, and what it says of the rows it was not trained on. */
export interface Training {
  readonly model: unknown;
  /** Metrics, intervals, findings of the guard and all else that a version keeps of its evaluation. */
  readonly judgement: unknown;
  /** Values of the key and all outputs of the model, in the order of the key. */
  readonly predictions: readonly (readonly (string | number)[])[];
}

/** A question about the rows of one table. */
export type TableQuestion =
  | { readonly kind: "profile" | "outline" | "joins" }
  | { readonly kind: "pair"; readonly columns: readonly [string, string] }
  | { readonly kind: "target"; readonly column: string }
  | { readonly kind: "key"; readonly columns: readonly string[] };

/** A question about the rows that a version was evaluated on. */
export type JudgingQuestion =
  | { readonly kind: "segments" | "residuals"; readonly column: string }
  | { readonly kind: "rows"; readonly choice: "all" | "wrong" | "borderline" }
  | { readonly kind: "reasons"; readonly key: Readonly<Record<string, string>> }
  /** Against a version of another candidate of the same file. */
  | { readonly kind: "comparison"; readonly candidate: string };

/** A problem of a run. */
export type RunProblem = Pick<Problem, "code" | "severity" | "message">;

/** A scoring run of a version in service. */
export interface ScoringAnswer {
  readonly time: string;
  readonly state: string;
  /** Rows delivered. */
  readonly rows: number | null;
  readonly problems: readonly RunProblem[];
  /** Warnings of the run's log. */
  readonly warnings: readonly string[];
  /** How far each column has drifted from training. */
  readonly drift: unknown;
}

/** A pipeline in operation. What follows training is missing when training fails. */
export interface Operation {
  readonly training: Pick<ScoringAnswer, "state" | "problems" | "warnings">;
  /** Findings of the guard. */
  readonly findings?: unknown;
  /** How the training rows are spread, by column. */
  readonly spreads?: unknown;
  readonly runs?: readonly ScoringAnswer[];
  /** Predictions against actual values, by day. */
  readonly truth?: unknown;
}

/** What an engine has to do for the golden cases to be run against it. */
export interface GoldenEngine {
  readonly load: (table: GoldenTable) => Promise<void>;
  /** @param file text of a pipeline file. @returns all rows after its last step, in any order */
  readonly rowsAfter: (file: string) => Promise<Answer<StepAnswer>>;
  /** @param table name of a golden table */
  readonly aboutTable: (table: string, question: TableQuestion) => Promise<unknown>;
  /** Answers about the version that a file's first candidate trains. */
  readonly aboutVersion: (file: string, question: JudgingQuestion) => Promise<unknown>;
  /** Trains the first candidate of a pipeline file. */
  readonly train: (file: string) => Promise<Answer<Training>>;
  /** Trains the first candidate of a file, puts the version in service and scores at run times. */
  readonly operate: (file: string, times: readonly string[]) => Promise<Operation>;
  readonly close: () => Promise<void>;
}
