import type { UnreadySetting } from "../pipeline/parse";
import { writeTableName } from "../pipeline/table-name";
import type { Problem } from "../problem";
import { stepKind } from "../steps";
import { PART_COLUMN } from "../steps/step";
import { familyOf, type Family } from "../value-type";
import type { CheckedPlan, CheckedStep, CheckedStrand } from "./plan";

/** What happens to a thread where a step crosses it. */
export type MarkKind = "reads" | "writes" | "learns" | "joins" | "ends";

export interface Crossing {
  /** Position from left to right: the order of execution. */
  readonly index: number;
  readonly strand: string;
  /** Position of the step in its strand. */
  readonly position: number;
  readonly kind: string;
  readonly title: string;
  readonly name: string;
  readonly sentence: string;
  readonly note?: string;
  readonly learns: boolean;
  readonly off: boolean;
  readonly settings: unknown;
  /** Place of its strand among the strands of the file. */
  readonly strandIndex: number;
  /** What is wrong with it, when the pipeline is a draft. */
  readonly problems: readonly Problem[];
  /** Its settings cannot be read as they are: rows and columns pass unchanged until they can. */
  readonly unready: boolean;
}

/** A column's value from one crossing to the next. */
export interface Stretch {
  /** From after this crossing (-1: from the beginning of the strand) ... */
  readonly from: number;
  /** ... to this crossing, or to the right end. */
  readonly to: number;
  readonly family: Family;
  readonly type: string;
  /** The strand whose rows carry it here, and how many of that strand's steps are behind it: where to measure it. */
  readonly strand: string;
  readonly after: number;
  readonly column: string;
}

export interface Thread {
  readonly id: string;
  /** The strand it comes from: threads are grouped by it. */
  readonly strand: string;
  readonly name: string;
  readonly stretches: readonly Stretch[];
  readonly marks: readonly { readonly crossing: number; readonly kind: MarkKind }[];
  /** What it is at the right end, or undefined when it ends before. */
  readonly role?: string;
  readonly because?: string;
}

export interface BraidGroup {
  readonly strand: string;
  readonly from: string;
  readonly main: boolean;
  /** Place among the strands of the file. */
  readonly index: number;
  readonly threads: readonly Thread[];
}

export interface Braid {
  readonly crossings: readonly Crossing[];
  readonly groups: readonly BraidGroup[];
}

interface OpenThread {
  readonly id: string;
  readonly strand: string;
  name: string;
  readonly stretches: Stretch[];
  readonly marks: { crossing: number; kind: MarkKind }[];
  role?: string;
  because?: string;
}

/** What a draft has that a good file has not. */
export interface DraftState {
  readonly unready: readonly UnreadySetting[];
  readonly problems: readonly Problem[];
}

/** Lays a checked plan out as threads and crossings: columns against steps, no pixels. */
export function braidOf(plan: CheckedPlan, draft: DraftState = { unready: [], problems: [] }): Braid {
  const weaver = new Weaver(plan, draft);
  for (const strand of plan.strands) weaver.strand(strand);
  return weaver.finish();
}

/** How a step looks that cannot be read yet. */
function unreadyCrossing(
  unready: UnreadySetting,
): Pick<Crossing, "kind" | "title" | "name" | "sentence" | "off" | "settings"> {
  const title =
    stepKind(unready.kind)?.title ??
    (unready.kind === "" ? "a step without a kind" : `unknown step "${unready.kind}"`);
  const { name } = unready.settings;
  return {
    kind: unready.kind,
    title,
    name: typeof name === "string" && name !== "" ? name : title,
    sentence: "settings are incomplete",
    off: unready.settings["off"] === true,
    settings: unready.settings,
  };
}

class Weaver {
  private readonly crossings: Crossing[] = [];
  private readonly threads: OpenThread[] = [];
  /** The crossing at which another strand last takes from a strand. */
  private readonly takenAt = new Map<string, number>();
  /** Threads at the current end of each strand, by column name. */
  private readonly ends = new Map<string, Map<string, OpenThread>>();

  constructor(
    private readonly plan: CheckedPlan,
    private readonly draft: DraftState,
  ) {}

  strand(strand: CheckedStrand): void {
    const current = new Map<string, OpenThread>();
    for (const [name, state] of strand.start) {
      const thread = this.open(strand.name, name);
      current.set(name, thread);
      this.stretch(thread, -1, strand.name, 0, name, familyOf(state.type), state.type);
    }
    for (const [position, checked] of strand.steps.entries()) this.step(strand, position, checked, current);
    this.ends.set(strand.name, current);
  }

  private open(strand: string, name: string): OpenThread {
    const thread: OpenThread = {
      id: `${strand}/${name}/${this.threads.length}`,
      strand,
      name,
      stretches: [],
      marks: [],
    };
    this.threads.push(thread);
    return thread;
  }

  private stretch(
    thread: OpenThread,
    from: number,
    strand: string,
    after: number,
    column: string,
    family: Family,
    type: string,
  ): void {
    const last = thread.stretches.at(-1);
    if (last && last.to > from) thread.stretches[thread.stretches.length - 1] = { ...last, to: from };
    thread.stretches.push({ from, to: Infinity, family, type, strand, after, column });
  }

  private close(thread: OpenThread, at: number): void {
    const last = thread.stretches.at(-1);
    if (last) thread.stretches[thread.stretches.length - 1] = { ...last, to: Math.min(last.to, at) };
  }

  private step(
    strand: CheckedStrand,
    position: number,
    checked: CheckedStep,
    current: Map<string, OpenThread>,
  ): void {
    const { step, shape, input } = checked;
    const at = this.crossings.length;
    const strandIndex = this.plan.file.strands.findIndex((oneStrand) => oneStrand.name === strand.name);
    const unready = this.draft.unready.find(
      (setting) => setting.strand === strandIndex && setting.position === position,
    );
    const problems = this.draft.problems.filter(
      ({ location }) =>
        location?.path?.[0] === "strands" &&
        location.path[1] === strandIndex &&
        location.path[2] === "steps" &&
        location.path[3] === position,
    );
    this.crossings.push({
      strandIndex,
      problems,
      unready: unready !== undefined,
      index: at,
      strand: strand.name,
      position,
      kind: step.kind,
      title: step.title,
      name: step.name,
      sentence: step.sentence,
      learns: step.learns,
      off: step.off,
      settings: step.settings,
      ...(step.note === undefined ? {} : { note: step.note }),
      ...(unready ? unreadyCrossing(unready) : {}),
    });
    const mark = (thread: OpenThread | undefined, kind: MarkKind): void => {
      const earlier = thread?.marks.find((mark) => mark.crossing === at);
      if (earlier) earlier.kind = kind;
      else thread?.marks.push({ crossing: at, kind });
    };
    const renames = shape.renames ?? new Map<string, string>();
    for (const name of shape.reads) mark(current.get(name), "reads");
    for (const name of step.strands) this.takenAt.set(name, at);
    const before = new Map(current);
    for (const [from, to] of renames) {
      const thread = before.get(from);
      if (!thread) continue;
      if (current.get(from) === thread) current.delete(from);
      current.set(to, thread);
      thread.name = to;
    }
    for (const name of shape.writes) {
      const state = shape.output.get(name);
      if (!state) continue;
      const taken = shape.joined?.get(name);
      const joined = taken && this.joinedThread(taken.strand, taken.column);
      const thread = joined ?? current.get(name) ?? this.open(strand.name, name);
      const changes = step.learns ? "learns" : "writes";
      mark(thread, joined ? "joins" : changes);
      current.set(name, thread);
      this.stretch(
        thread,
        at,
        strand.name,
        position + 1,
        name,
        familyOf(state.type),
        state.bundle ? "one-hot columns" : state.type,
      );
    }
    for (const name of shape.drops) {
      const thread = before.get(name);
      if (
        !thread ||
        [...current.values()].some((oneThread) => oneThread === thread && current.get(name) !== thread)
      )
        continue;
      mark(thread, "ends");
      this.close(thread, at);
      current.delete(name);
    }
    // Rows change at joins, filters and aggregates, so completeness is measured anew after each step that a thread passes.
    for (const [name, thread] of current) {
      const state = shape.output.get(name);
      if (state && thread.stretches.at(-1)?.from !== at && input.has(name))
        this.stretch(
          thread,
          at,
          strand.name,
          position + 1,
          name,
          familyOf(state.type),
          state.bundle ? "one-hot columns" : state.type,
        );
    }
  }

  /** The other strand's thread behind a joined column; a column joined twice gets a thread of its own. */
  private joinedThread(strand: string, name: string): OpenThread | undefined {
    const source = this.ends.get(strand)?.get(name);
    return source?.marks.some((mark) => mark.kind === "joins") ? undefined : source;
  }

  finish(): Braid {
    const main = this.ends.get(this.plan.main.name) ?? new Map<string, OpenThread>();
    for (const [name, thread] of main) {
      const role = this.plan.roles.get(name);
      if (role) thread.role = role.role;
      if (role?.because) thread.because = role.because;
    }
    // A side strand's columns that nobody took over end where the strand is joined.
    const living = new Set(main.values());
    for (const thread of this.threads) {
      if (living.has(thread)) continue;
      const last =
        this.takenAt.get(thread.strand) ??
        this.crossings.filter((crossing) => crossing.strand === thread.strand).at(-1)?.index ??
        this.crossings.length;
      this.close(thread, Math.max(last, thread.stretches.at(-1)?.from ?? -1));
    }
    const order = [this.plan.main, ...this.plan.strands.filter((strand) => strand !== this.plan.main)];
    const groups = order.map((strand): BraidGroup => ({
      strand: strand.name,
      from: strand.from.kind === "table" ? writeTableName(strand.from.source) : strand.from.name,
      main: strand === this.plan.main,
      index: this.plan.file.strands.findIndex((oneStrand) => oneStrand.name === strand.name),
      threads: this.threads
        .filter((thread) => thread.strand === strand.name && thread.name !== PART_COLUMN)
        .map((thread) => ({
          ...thread,
          stretches: thread.stretches.map((stretch) => ({
            ...stretch,
            to: Number.isFinite(stretch.to) ? stretch.to : this.crossings.length,
          })),
        })),
    }));
    return { crossings: this.crossings, groups };
  }
}
