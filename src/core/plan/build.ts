import { filter, inputsOf, label, outputColumns, type Relation } from "../relation/relation";
import type { ApplyContext, Requirement } from "../steps/step";
import type { CheckedPlan, CheckedStrand } from "./plan";
import { withCopies, type Original } from "./originals";
import { standInRows, startRows, type StandIn } from "./stand-in";

/** What the learned steps of the main strand learned, by step position. Plain JSON, kept with the model version. */
export type LearnedValues = Readonly<Record<string, unknown>>;

export interface BuildOptions {
  readonly learned: LearnedValues;
  /** Steps of the main strand to apply: from `fromStep` (default 0) up to, not including, `toStep` (default all). */
  readonly fromStep?: number;
  readonly toStep?: number;
  /** The rows before `fromStep`, when they do not come from the strand's own beginning. */
  readonly start?: Relation;
  /** Values that steps of the main strand change, to be kept beside what becomes of them. */
  readonly originals?: readonly Original[];
}

/** Steps of a strand from one position up to, not including, another. */
interface StepRange {
  readonly from?: number;
  readonly to: number;
  readonly learned?: LearnedValues;
  readonly originals?: readonly Original[];
}

/** The relation of the main strand, or of another strand up to a step. Strands used twice are the same node. */
export class PlanBuilder {
  private readonly finished = new Map<string, Relation>();

  constructor(private readonly plan: CheckedPlan) {}

  private get context(): Omit<ApplyContext, "input" | "output" | "inside"> {
    return {
      strand: (name) => this.strand(name),
      expression: this.plan.expression,
      target: this.plan.file.roles.target,
    };
  }

  main(options: BuildOptions): Relation {
    return this.steps(this.plan.main, options.start ?? this.start(this.plan.main), {
      from: options.fromStep ?? 0,
      to: options.toStep ?? this.plan.main.steps.length,
      learned: options.learned,
      originals: options.originals ?? [],
    });
  }

  /** The main strand over the rows of another table, in the place of the one that its rows descend from. */
  mainOf(other: StandIn, options: BuildOptions): Relation {
    return this.main({ ...options, start: options.start ?? this.startOf(this.plan.main, other) });
  }

  private startOf(strand: CheckedStrand, other: StandIn): Relation {
    const { from } = strand;
    if (from.kind === "table") return label(standInRows(strand, other), strand.name);
    const below = this.plan.strands.find(({ name }) => name === from.name);
    if (!below) throw new RangeError(`no strand ${from.name}`);
    return label(this.steps(below, this.startOf(below, other), { to: below.steps.length }), below.name);
  }

  /** A strand up to a step, or to its end. Side strands never learn. */
  strand(name: string, toStep?: number, learned: LearnedValues = {}): Relation {
    const strand = this.plan.strands.find((strand) => strand.name === name);
    if (!strand) throw new RangeError(`no strand ${name}`);
    if (toStep !== undefined)
      return this.steps(strand, this.start(strand), {
        to: toStep,
        learned: name === this.plan.main.name ? learned : {},
      });
    const known = this.finished.get(name);
    if (known) return known;
    const built = label(this.steps(strand, this.start(strand), { to: strand.steps.length }), name);
    this.finished.set(name, built);
    return built;
  }

  /**
   * Conditions that the data must meet, with the strand and step that state them. Those of steps of the main strand
   * that come after something learned can only be asked once it is: name their positions and give what was learned.
   */
  requirements(
    learned: LearnedValues = {},
    main: { readonly from: number; readonly to: number } = { from: 0, to: this.plan.learnsFrom },
  ): readonly (Requirement & { readonly strand: string; readonly step: string })[] {
    return this.plan.strands.flatMap((strand) =>
      strand.steps.flatMap(({ step, input, shape }, position) => {
        const isMain = strand === this.plan.main;
        if (isMain ? position < main.from || position > main.to : main.from > 0) return [];
        return step
          .requirements(
            { ...this.context, input, output: shape.output, inside: strand.name },
            this.strand(strand.name, position, learned),
          )
          .map((requirement) => ({ ...requirement, strand: strand.name, step: step.name }));
      }),
    );
  }

  private start(strand: CheckedStrand): Relation {
    const { standIn } = this.plan;
    if (standIn && strand.name === this.plan.main.name)
      return label(standInRows(strand, standIn), strand.name);
    return strand.from.kind === "strand"
      ? this.strand(strand.from.name)
      : label(startRows(strand, strand.from.source), strand.name);
  }

  private steps(
    strand: CheckedStrand,
    start: Relation,
    { from = 0, to, learned = {}, originals = [] }: StepRange,
  ): Relation {
    const shared = (rows: Relation, after: number): Relation => {
      const { share } = this.plan;
      return share?.strand === strand.name && share.after === after ? filter(rows, share.condition) : rows;
    };
    let relation = from === 0 ? shared(start, 0) : start;
    for (let index = from; index < to; index += 1) {
      const checked = strand.steps[index];
      if (checked)
        relation = label(
          checked.step.apply(withCopies(relation, originals, index), learned[String(index)], {
            ...this.context,
            input: checked.input,
            output: checked.shape.output,
            inside: strand.name,
          }),
          checked.step.name,
        );
      relation = shared(relation, index + 1);
    }
    return relation;
  }
}

/** Tables and columns that a relation reads. */
export function readsOf(
  relation: Relation,
): ReadonlyMap<
  string,
  { readonly schema: string; readonly table: string; readonly columns: ReadonlySet<string> }
> {
  const found = new Map<string, { schema: string; table: string; columns: Set<string> }>();
  const visit = (node: Relation): void => {
    if (node.kind === "table") {
      const key = JSON.stringify([node.source.schema, node.source.table]);
      const entry = found.get(key) ?? { ...node.source, columns: new Set<string>() };
      for (const name of outputColumns(node)) entry.columns.add(name);
      found.set(key, entry);
    }
    inputsOf(node).forEach(visit);
  };
  visit(relation);
  return found;
}
