import { z } from "zod";
import type { Expression } from "../expression/ast";
import type { CheckedExpression, ColumnFacts } from "../expression/check";
import type { Problem } from "../problem";
import type { NamedExpression, Relation } from "../relation/relation";

/** What is known of a column at one place in a strand, before any row is read. */
export interface ColumnState extends ColumnFacts {
  /** Stays the same while the values do: through keep, rename, filter and join. A new value is a new identity. */
  readonly identity: string;
  /** Source columns ("schema.table.column") that the values descend from. */
  readonly sources: readonly string[];
  /** Stands for several columns whose names are learned (indicator columns). Cannot be named in expressions. */
  readonly bundle?: boolean;
}

/** Hidden column that says on which side of the holdout a row is. */
export const PART_COLUMN = "ravlen_part";
/** Hidden column with a stable random number per row. */
export const DRAW_COLUMN = "ravlen_draw";
/** Once rows are split, these travel through every later step. */
export const HIDDEN_COLUMNS: readonly string[] = [PART_COLUMN, DRAW_COLUMN];

export type ColumnSet = ReadonlyMap<string, ColumnState>;

export interface CheckContext {
  readonly input: ColumnSet;
  /** Columns of another strand, or undefined (and a problem reported) when it does not exist. */
  readonly strand: (name: string, path: readonly (string | number)[]) => ColumnSet | undefined;
  /** Parses and checks an expression against given columns; problems are reported at the path. */
  readonly expression: (
    text: string,
    path: readonly (string | number)[],
    options?: { readonly columns?: ColumnSet; readonly aggregates?: "required" | "forbidden" },
  ) => { readonly expression: Expression; readonly checked: CheckedExpression } | undefined;
  /** The state of a named input column, or undefined (and a problem reported). */
  readonly column: (name: string, path: readonly (string | number)[]) => ColumnState | undefined;
  readonly report: (problem: Problem, path: readonly (string | number)[]) => void;
  /** A column newly written by this step. */
  readonly written: (name: string, checked: CheckedExpression, from: readonly ColumnState[]) => ColumnState;
}

export interface StepShape {
  readonly output: ColumnSet;
  readonly reads: readonly string[];
  readonly writes: readonly string[];
  readonly drops: readonly string[];
}

export interface ApplyContext {
  /** Columns before the step, as far as they are known without looking at rows: a bundle is one column here. */
  readonly input: ColumnSet;
  readonly strand: (name: string) => Relation;
  /** An expression that was already checked. */
  readonly expression: (text: string) => Expression;
}

/** What to ask about the training rows: one row of aggregates over the step's input. */
export interface LearnQuestion {
  readonly measures: readonly NamedExpression[];
}

/** A condition that must hold before a plan runs: this relation must be empty. */
export interface Requirement {
  readonly code: string;
  readonly rows: Relation;
  readonly message: string;
  readonly hint: string;
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
  /** Makes new rows out of many, so that what was known of a single row is gone. */
  readonly regroups: boolean;
  readonly check: (context: CheckContext) => StepShape;
  readonly question: (input: Relation, types: ColumnSet) => LearnQuestion | undefined;
  /** Turns the answer row into the learned values; the result is plain JSON. */
  readonly learned: (row: Readonly<Record<string, unknown>>) => unknown;
  readonly apply: (input: Relation, learned: unknown, context: ApplyContext) => Relation;
  readonly requirements: (context: ApplyContext) => readonly Requirement[];
}

interface StepDefinition<Settings extends StepCommon, Learned> {
  readonly kind: string;
  readonly title: string;
  readonly regroups?: boolean;
  readonly settings: z.ZodObject & z.ZodType<Settings>;
  readonly sentence: (settings: Settings) => string;
  readonly check: (settings: Settings, context: CheckContext) => StepShape;
  readonly apply: (settings: Settings, input: Relation, learned: Learned | undefined, context: ApplyContext) => Relation;
  readonly learn?: {
    /** Whether the step asks anything of the rows as it is set; always, when left out. */
    readonly when?: (settings: Settings) => boolean;
    readonly schema: z.ZodType<Learned>;
    readonly question: (settings: Settings, input: Relation, types: ColumnSet) => LearnQuestion;
    readonly decode: (settings: Settings, row: Readonly<Record<string, unknown>>) => Learned;
  };
  readonly requirements?: (settings: Settings, context: ApplyContext) => readonly Requirement[];
}

/** Settings every step has, whatever its kind. */
export const stepCommon = {
  name: z.string().min(1).max(60).optional().describe("A short name, shown in the Braid and in the SQL. Defaults to the kind and its columns."),
  note: z.string().optional().describe("Why this step is here, for the next reader."),
};

/** An SQL expression in the file. YAML reads `1` and `true` as no texts, but as expressions they are good. */
export const expressionText = z.union([z.string(), z.number(), z.boolean()]).transform(String);

export interface StepCommon {
  readonly name?: string | undefined;
  readonly note?: string | undefined;
}

export interface StepKind {
  readonly kind: string;
  readonly title: string;
  readonly settings: z.ZodObject;
  readonly bind: (settings: unknown) => BoundStep;
}

/** Defines a step kind. One module calls this once; the registry in `index.ts` lists the results. */
export function defineStep<Settings extends StepCommon, Learned = never>(definition: StepDefinition<Settings, Learned>): StepKind {
  const bind = (raw: unknown): BoundStep => {
    const settings = definition.settings.parse(raw);
    const learn = definition.learn?.when?.(settings) === false ? undefined : definition.learn;
    const sentence = definition.sentence(settings);
    return {
      kind: definition.kind,
      title: definition.title,
      name: settings.name ?? sentence.slice(0, 40),
      ...(settings.note === undefined ? {} : { note: settings.note }),
      sentence,
      settings: raw,
      learns: learn !== undefined,
      regroups: definition.regroups ?? false,
      check: (context) => definition.check(settings, context),
      question: (input, types) => learn?.question(settings, input, types),
      learned: (row) => learn?.decode(settings, row),
      apply: (input, learned, context) =>
        definition.apply(settings, input, learn && learned !== undefined ? learn.schema.parse(learned) : undefined, context),
      requirements: (context) => definition.requirements?.(settings, context) ?? [],
    };
  };
  return { kind: definition.kind, title: definition.title, settings: definition.settings, bind };
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
