import type { Dialect } from "@/core/dialect";
import type { Question } from "@/core/questions/question";
import type { Relation } from "@/core/relation/relation";
import type { WarehouseCatalog } from "./catalog";
import type { WarehouseConfig } from "./engine";
import type { Exports } from "./exports";
import type { PredictionFunctions } from "./functions";
import type { Ledger } from "./landing";
import type { SessionOptions, WarehouseSession } from "./session";

export interface AskOptions {
  /** The logical time of the question, as an ISO 8601 text with offset; now when left out. */
  readonly runTime?: string;
  /** How long the answer may take. */
  readonly milliseconds?: number | undefined;
}

/**
 * A warehouse, reached with two roles. The reader answers for catalog, profiles, samples and previews and cannot
 * write; the writer, in sessions, owns the output, import and scratch schemas and nothing else.
 */
export interface Warehouse {
  readonly config: WarehouseConfig;
  readonly dialect: Dialect;
  readonly catalog: WarehouseCatalog;
  readonly ledger: Ledger;
  readonly exports: Exports;
  readonly functions: PredictionFunctions;
  /** Answers a question as the reader; given up when who asks goes away (`asking`). */
  readonly ask: <Answer>(question: Question<Answer>, options?: AskOptions) => Promise<Answer>;
  /** How many rows are expected of a relation, which costs no look at them; undefined where that is not known. */
  readonly estimate: (relation: Relation, options?: AskOptions) => Promise<number | undefined>;
  /** What the warehouse has against a regular expression, in its words; undefined when it takes it. */
  readonly badPattern: (pattern: string) => Promise<string | undefined>;
  /** Whether the warehouse is there, asked now. */
  readonly answers: () => Promise<boolean>;
  /** Throws when a role is not answered. */
  readonly ping: (role: "reader" | "writer") => Promise<void>;
  /** Names of the tables of a schema. */
  readonly tableNames: (schema: string) => Promise<readonly string[]>;
  /** Opens a session of the writer, for work whose steps belong together. */
  readonly session: (options?: Partial<SessionOptions>) => Promise<WarehouseSession>;
  readonly end: () => Promise<void>;
}
