import { hidden } from "../names/hidden";
import { z } from "zod";
import type { Expression, Order } from "../expression/ast";
import type { CheckedExpression, ColumnFacts } from "../expression/check";
import type { Scalar } from "../expression/has-value";
import type { Problem } from "../problem";
import type { NamedExpression, Relation } from "../relation/relation";
import { finiteOnly } from "./finite-only";

/** What is known of a column at one place in a strand, before any row is read. */
export interface ColumnState extends ColumnFacts {
  /** Stays the same while the values do: through keep, rename, filter and join. A new value is a new identity. */
  readonly identity: string;
  /** Source columns ("schema.table.column") that the values descend from. */
  readonly sources: readonly string[];
  /** Identities of the columns that the values were made from; none for a source column. */
  readonly parents: readonly string[];
  /** Stands for several columns whose names are learned (indicator columns). Cannot be named in expressions. */
  readonly bundle?: boolean;
}

/** Hidden column that says on which side of the holdout a row is. */
export const PART_COLUMN = hidden("part");
/** Hidden column with a stable random number per row. */
export const DRAW_COLUMN = hidden("draw");
/** Hidden column with the fold of a training row; only there when rows are put into folds. */
export const FOLD_COLUMN = hidden("fold");
/** Once rows are split, these travel through every later step. */
export const HIDDEN_COLUMNS: readonly string[] = [PART_COLUMN, DRAW_COLUMN, FOLD_COLUMN];

export type ColumnSet = ReadonlyMap<string, ColumnState>;

export interface CheckContext {
  readonly input: ColumnSet;
  /** Columns of another strand, or undefined (and a problem reported) when it does not exist. */
  readonly strand: (name: string, path: readonly (string | number)[]) => ColumnSet | undefined;
  /** Parses and checks an expression against given columns; problems are reported at the path. */
  readonly expression: (
    text: string,
    path: readonly (string | number)[],
    options?: {
      readonly columns?: ColumnSet;
      readonly aggregates?: "required" | "forbidden";
      /** A strand whose columns may be named with its name before them. */ readonly other?: string;
    },
  ) => { readonly expression: Expression; readonly checked: CheckedExpression } | undefined;
  /** The state of a named input column, or undefined (and a problem reported). */
  readonly column: (name: string, path: readonly (string | number)[]) => ColumnState | undefined;
  readonly report: (problem: Problem, path: readonly (string | number)[]) => void;
  /** A column newly written by this step. */
  readonly written: (name: string, checked: CheckedExpression, from: readonly ColumnState[]) => ColumnState;
  /** The pipeline's target, for steps that learn from the answer. */
  readonly target: TargetRole;
}

/** What the file says of the target: its column at the end, and which values count as positive. */
export interface TargetRole {
  readonly column: string;
  readonly kind: "binary" | "number" | "classes";
  readonly positive?: Scalar | readonly Scalar[] | undefined;
}

export interface StepShape {
  readonly output: ColumnSet;
  readonly reads: readonly string[];
  readonly writes: readonly string[];
  readonly drops: readonly string[];
  /** Columns that only changed their name: old name, new name. */
  readonly renames?: ReadonlyMap<string, string>;
  /** Columns taken over from another strand: name here, and strand and name there. */
  readonly joined?: ReadonlyMap<string, { readonly strand: string; readonly column: string }>;
}

export interface ApplyContext {
  /** Columns before the step, as far as they are known without looking at rows: a bundle is one column here. */
  readonly input: ColumnSet;
  readonly output: ColumnSet;
  /** The strand that the step is in. */
  readonly inside: string;
  readonly strand: (name: string) => Relation;
  /** An expression that was already checked; with the name of the other strand, for conditions of a join. */
  readonly expression: (text: string, other?: string) => Expression;
  readonly target: TargetRole;
}

/** What to ask about the training rows: aggregates over the step's input, in one row or by group. */
export interface LearnQuestion {
  /** Reshapes the training rows first; must keep the columns that `by` and `measures` read. */
  readonly rows?: (training: Relation) => Relation;
  readonly by?: readonly NamedExpression[];
  readonly measures: readonly NamedExpression[];
  /** Only the first groups, in an order of measures or groups. */
  readonly limit?: { readonly order: readonly Order[]; readonly rows: number };
}

/** The rows that came back for one question. */
export type LearnAnswer = readonly Readonly<Record<string, unknown>>[];

/** A condition that must hold before a plan runs: this relation must be empty. */
export interface Requirement {
  readonly code: string;
  readonly rows: Relation;
  readonly message: string;
  readonly hint: string;
  /** What happens when it does not hold; stops the run when left out. */
  readonly otherwise?: "warn" | "stop";
}

/** A step with its settings bound: what the compiler and the Braid work with. */
export interface BoundStep {
  readonly kind: string;
  readonly title: string;
  readonly name: string;
  readonly note?: string;
  /** The settings in one plain sentence. */
  readonly sentence: string;
  readonly settings: unknown;
  readonly learns: boolean;
  /** Its result for a row depends on other rows, so it must come before anything that is learned on training rows alone. */
  readonly regroups: boolean;
  /** Left out for now: rows and columns pass unchanged. */
  readonly off: boolean;
  /** Other strands that it reads. */
  readonly strands: readonly string[];
  /** Regular expressions in its settings, which only the warehouse can judge. */
  readonly patterns: readonly PatternSetting[];
  readonly check: (context: CheckContext) => StepShape;
  readonly questions: (input: Relation, types: ColumnSet, target: TargetRole) => readonly LearnQuestion[];
  /** Turns the answers, in the order of the questions, into the learned values; the result is plain JSON. */
  readonly learned: (answers: readonly LearnAnswer[]) => unknown;
  readonly apply: (input: Relation, learned: unknown, context: ApplyContext) => Relation;
  readonly requirements: (context: ApplyContext, input: Relation) => readonly Requirement[];
}

/** A regular expression and the setting it stands in. */
export interface PatternSetting {
  readonly setting: string;
  readonly text: string;
}

/** What the reference documentation and the forms say of a step kind. */
export interface StepHelp {
  readonly about: string;
  /** What else people call it, or look for when they need it. */
  readonly words: readonly string[];
  /** What becomes of missing values. */
  readonly missing: string;
  /** Settings as they stand in a file, below "do". */
  readonly example: string;
}

interface StepDefinition<Settings extends StepCommon, Learned> {
  readonly kind: string;
  readonly title: string;
  readonly help: StepHelp;
  readonly regroups?: boolean | ((settings: Settings) => boolean);
  readonly strands?: (settings: Settings) => readonly string[];
  readonly patterns?: (settings: Settings) => readonly PatternSetting[];
  readonly settings: z.ZodObject & z.ZodType<Settings>;
  readonly sentence: (settings: Settings) => string;
  readonly check: (settings: Settings, context: CheckContext) => StepShape;
  readonly apply: (
    settings: Settings,
    input: Relation,
    learned: Learned | undefined,
    context: ApplyContext,
  ) => Relation;
  readonly learn?: {
    /** Whether the step asks anything of the rows as it is set; always, when left out. */
    readonly when?: (settings: Settings) => boolean;
    readonly schema: z.ZodType<Learned>;
    readonly questions: (
      settings: Settings,
      input: Relation,
      types: ColumnSet,
      target: TargetRole,
    ) => readonly LearnQuestion[];
    readonly decode: (settings: Settings, answers: readonly LearnAnswer[]) => Learned;
  };
  readonly requirements?: (
    settings: Settings,
    context: ApplyContext,
    input: Relation,
  ) => readonly Requirement[];
}

/** Settings every step has, whatever its kind. */
export const stepCommon = {
  name: z
    .string()
    .min(1)
    .max(60)
    .optional()
    .describe("A short name, shown in the Braid and in the SQL. Defaults to the kind and its columns."),
  note: z.string().optional().describe("Why this step is needed."),
  off: z.boolean().optional().describe("true: the step is turned off, and rows and columns pass unchanged."),
};

/** An SQL expression in the file. YAML reads `1` and `true` as no texts, but as expressions they are good. */
export const expressionText = z.union([z.string(), z.number(), z.boolean()]).transform(String);

export interface StepCommon {
  readonly name?: string | undefined;
  readonly note?: string | undefined;
  readonly off?: boolean | undefined;
}

export interface StepKind {
  readonly kind: string;
  readonly title: string;
  readonly help: StepHelp;
  readonly settings: z.ZodObject;
  readonly bind: (settings: unknown) => BoundStep;
}

/** Defines a step kind. One module calls this once; the registry in `index.ts` lists the results. */
export function defineStep<Settings extends StepCommon, Learned = never>(
  definition: StepDefinition<Settings, Learned>,
): StepKind {
  const bind = (raw: unknown): BoundStep => {
    const settings = definition.settings.parse(raw);
    const off = settings.off === true;
    const learn = off || definition.learn?.when?.(settings) === false ? undefined : definition.learn;
    const { regroups = false } = definition;
    const sentence = definition.sentence(settings);
    return {
      kind: definition.kind,
      title: definition.title,
      name: settings.name ?? sentence.slice(0, 40),
      ...(settings.note === undefined ? {} : { note: settings.note }),
      sentence,
      settings: raw,
      learns: learn !== undefined,
      regroups: !off && (typeof regroups === "function" ? regroups(settings) : regroups),
      off,
      strands: off ? [] : (definition.strands?.(settings) ?? []),
      patterns: off ? [] : (definition.patterns?.(settings) ?? []),
      check: (context) =>
        off
          ? { output: context.input, reads: [], writes: [], drops: [] }
          : definition.check(settings, context),
      questions: (input, types, target) => learn?.questions(settings, input, types, target) ?? [],
      learned: (answers) => finiteOnly(learn?.decode(settings, answers), settings.name ?? sentence),
      apply: (input, learned, context) =>
        off
          ? input
          : definition.apply(
              settings,
              input,
              learn && learned !== undefined ? learn.schema.parse(learned) : undefined,
              context,
            ),
      requirements: (context, input) =>
        off ? [] : (definition.requirements?.(settings, context, input) ?? []),
    };
  };
  return {
    kind: definition.kind,
    title: definition.title,
    help: definition.help,
    settings: definition.settings,
    bind,
  };
}

/** Whether a column is, or belongs to the bundle of, one of the named columns. Its indicator columns follow a bundle's name. */
export function belongsTo(column: string, names: readonly string[], known: ColumnSet): boolean {
  if (known.has(column)) return names.includes(column);
  return names.some((name) => known.get(name)?.bundle === true && column.startsWith(`${name}=`));
}

/** Columns of the input with some replaced or added, in the order that {@link StepShape.output} should have. */
export function changed(input: ColumnSet, changes: readonly ColumnState[]): ColumnSet {
  const output = new Map(input);
  for (const change of changes) output.set(change.name, change);
  return output;
}

/** "a", "a and b", "a, b and 3 more". */
export function listNames(names: readonly string[]): string {
  if (names.length <= 1) return names[0] ?? "nothing";
  if (names.length <= 3) return `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
  return `${names.slice(0, 2).join(", ")} and ${names.length - 2} more`;
}

/** Ties of an order broken by every other column that has an order, so that the same rows always give the same result. */
export function tieBreak(
  all: readonly string[],
  types: ColumnSet,
  except: readonly string[],
): readonly Order[] {
  return all
    .filter(
      (name) =>
        !except.includes(name) &&
        !HIDDEN_COLUMNS.includes(name) &&
        !["json", "other"].includes(types.get(name)?.type ?? "text"),
    )
    .map((name): Order => ({ expression: { kind: "column", name } }));
}
