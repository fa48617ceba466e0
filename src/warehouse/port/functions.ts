import type { GivenParameter } from "@/core/plan/given";
import type { Relation } from "@/core/relation/relation";

/** A function that answers with rows: of a relation over one row that it is given, or of a relation alone. */
export interface FunctionDefinition {
  readonly name: string;
  readonly parameters: readonly GivenParameter[];
  readonly returns: readonly { readonly name: string; readonly type: string }[];
  /** Reads the parameters as the given rows named GIVEN (core/plan/given). */
  readonly relation: Relation;
  readonly comment: string;
}

/** A function that is there. */
export interface FoundFunction {
  readonly name: string;
  readonly comment: string;
}

/** What somebody who calls a function has to know of it. */
export interface DescribedFunction extends FoundFunction {
  /** Types as the warehouse writes them. */
  readonly parameters: readonly { readonly name: string; readonly type: string }[];
  readonly returns: string;
}

/** A value given to a function by the name of its parameter. */
export interface GivenValue {
  readonly name: string;
  /** The type as the warehouse writes it. */
  readonly type: string;
  /** As text; null for a missing value. */
  readonly value: string | null;
}

/**
 * Functions in the output schema through which others ask a version in the warehouse's own language. Those of a
 * pipeline are known by how their comments begin; a function of somebody else is never touched.
 */
export interface PredictionFunctions {
  /** Functions whose comments begin with a text. */
  readonly find: (beginning: string) => Promise<readonly FoundFunction[]>;
  /** The same with parameters and results; those without a version's number in their names first. */
  readonly describe: (beginning: string) => Promise<readonly DescribedFunction[]>;
  /** A call of a function that can be run as it stands, one value a line. */
  readonly callText: (name: string, values: readonly GivenValue[]) => string;
  /**
   * Makes functions, in the place of those of the same names whose comments begin with a text, and lets roles call
   * them; nobody else may. All of it or nothing. Problems: name_taken, schema_not_granted.
   */
  readonly replace: (
    beginning: string,
    definitions: readonly FunctionDefinition[],
    roles: readonly string[],
  ) => Promise<void>;
  /** Drops functions whose comments begin with a text: those of some names, or all. All of them or none. */
  readonly drop: (beginning: string, names?: readonly string[]) => Promise<void>;
}
