import type { Expression } from "../expression/ast";
import type { PipelineFile } from "../pipeline/schema";
import type { Problem } from "../problem";
import type { TableReference } from "../relation/relation";
import type { BoundStep, ColumnSet, StepShape } from "../steps/step";
import type { ValueType } from "../value-type";
import type { StandIn } from "./stand-in";

export interface CheckedStep {
  readonly step: BoundStep;
  readonly shape: StepShape;
  /** Columns before the step. */
  readonly input: ColumnSet;
}

export interface CheckedStrand {
  readonly name: string;
  readonly note?: string;
  readonly from:
    | { readonly kind: "table"; readonly source: TableReference }
    | { readonly kind: "strand"; readonly name: string };
  /** Columns before the first step. */
  readonly start: ColumnSet;
  /** Columns of the source that have another name here: the name here, and their own. */
  readonly renamed?: ReadonlyMap<string, string>;
  readonly steps: readonly CheckedStep[];
  readonly output: ColumnSet;
}

/** How a column enters the learner: as a number, as a category by code, as indicator columns made by a step, or as the learned terms of a text. */
export type FeatureKind = "number" | "category" | "bundle" | "sparse";

export interface Feature {
  readonly name: string;
  readonly kind: FeatureKind;
  readonly type: ValueType;
}

/** What one column of the final rows is for, with the reason when it is left out. */
export interface ColumnRole {
  readonly role: "key" | "target" | "time" | "group" | "weight" | "feature" | "excluded";
  readonly because?: string;
}

export interface SourceUse extends TableReference {
  readonly columns: readonly { readonly name: string; readonly declared: string; readonly type: ValueType }[];
}

/** How rows are divided into those that train and those that judge, as far as columns and the catalog have a say in it. */
export interface Division {
  /** Rows of the holdout, and of the blind part, where groups or a condition tell them apart. */
  readonly held?: Expression;
  readonly closed?: Expression;
  /** Tables whose rows judge. */
  readonly tables: readonly JudgingTable[];
}

export interface JudgingTable extends StandIn {
  readonly part: "holdout" | "blind";
}

/** A pipeline that has been checked against a catalog. Everything else is compiled from this. */
export interface CheckedPlan {
  readonly file: PipelineFile;
  /** In an order in which every strand comes after those it uses. */
  readonly strands: readonly CheckedStrand[];
  readonly main: CheckedStrand;
  readonly features: readonly Feature[];
  readonly roles: ReadonlyMap<string, ColumnRole>;
  /** For yes and no, a boolean or NULL: whether the row is positive; else the target's column. */
  readonly target: Expression;
  readonly train: Expression;
  /** Where positive and negative values are named. */
  readonly sides?: {
    /** Whether the answer of a row is one of those named; training rows are only such. */
    readonly named: Expression;
    /** Rows that the file asks to train on, whatever their answer is. */
    readonly asked: Expression;
    /** Those of them that do not train, since their answer is none of those named. */
    readonly leftOut: Expression;
  };
  readonly score: Expression;
  readonly division: Division;
  /** Position in the main strand from which on values are learned; its length when only the learner does. */
  readonly learnsFrom: number;
  readonly sources: readonly SourceUse[];
  readonly warnings: readonly Problem[];
  readonly hash: string;
  /** While building, only the rows for which this holds may be taken of those that a strand has after some of its steps. */
  readonly share?: { readonly strand: string; readonly after: number; readonly condition: Expression };
  /** While building, rows of another table may stand in for those that the main strand begins with. */
  readonly standIn?: StandIn;
  /** Expressions by their text, parsed once. */
  readonly expression: (text: string, other?: string) => Expression;
}
