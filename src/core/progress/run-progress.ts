/** A step of a run, with its times in milliseconds since 1970. */
export interface TimedStep {
  readonly name: string;
  readonly startedAt: number;
  /** None while it goes on. */
  readonly finishedAt: number | null;
}

/** How a step went in earlier runs of the same work. */
export interface UsualTime {
  readonly name: string;
  /** Median of its time. */
  readonly milliseconds: number;
  /** How often it occurs in a run, in the mean. */
  readonly times: number;
}

/** A count within the step that goes on, such as trials of a search or trees. */
export interface Counted {
  readonly what: string;
  readonly done: number;
  readonly of: number;
}

/** How far a run is. */
export interface RunProgress {
  /** From 0 to 1; none where nothing tells it. */
  readonly share: number | null;
  /** Milliseconds that are left; none where nothing tells it. */
  readonly left: number | null;
  /** What it rests on. A count tells the time of its own step alone, so what is left is then a lower bound. */
  readonly basis: "earlier runs" | "count" | "none";
}

const UNKNOWN: RunProgress = { share: null, left: null, basis: "none" };
/** A run that goes on is never called done. */
const MOST_SHARE = 0.99;

/** What a step does, without what it does it to, which may differ from run to run: "trial 2 of 6: depth 4". */
const kindOf = (name: string): string => name.split(":")[0]!;

/** How often a kind of step occurs in a run, and how long one takes in the mean. */
function usualOfKind(usual: readonly UsualTime[]): { readonly times: number; readonly milliseconds: number } {
  const times = usual.reduce((sum, step) => sum + step.times, 0);
  const whole = usual.reduce((sum, step) => sum + step.times * step.milliseconds, 0);
  return { times, milliseconds: times === 0 ? 0 : whole / times };
}

/** Milliseconds that steps of earlier runs still take here. */
function leftByUsual(steps: readonly TimedStep[], usual: readonly UsualTime[], now: number): number {
  const kinds = [...new Set(usual.map(({ name }) => kindOf(name)))];
  return kinds.reduce((sum, kind) => {
    const { times, milliseconds } = usualOfKind(usual.filter(({ name }) => kindOf(name) === kind));
    const own = steps.filter(({ name }) => kindOf(name) === kind);
    const running = own.find(({ finishedAt }) => finishedAt === null);
    const ahead = Math.max(0, times - own.length) * milliseconds;
    return sum + ahead + (running ? Math.max(0, milliseconds - (now - running.startedAt)) : 0);
  }, 0);
}

/** Milliseconds that the counted rest of the step that goes on takes at the pace so far. */
function leftByCount(steps: readonly TimedStep[], { done, of }: Counted, now: number): number | undefined {
  const running = steps.findLast(({ finishedAt }) => finishedAt === null);
  if (!running || done === 0) return undefined;
  return ((now - running.startedAt) / done) * Math.max(0, of - done);
}

/**
 * How far a run is, and how long it still takes: by the median times of its steps in earlier runs of the same work; without
 * such runs by a count within its current step, at the pace so far. The share is the time taken over the time in all.
 *
 * @param steps the steps of this attempt so far
 * @param usual how the steps went in earlier runs; empty without any
 * @param counted a count within the current step
 * @param now milliseconds since 1970
 */
export function progressOf(
  steps: readonly TimedStep[],
  usual: readonly UsualTime[],
  counted: Counted | undefined,
  now: number,
): RunProgress {
  if (steps.length === 0) return UNKNOWN;
  const taken = Math.max(0, now - Math.min(...steps.map(({ startedAt }) => startedAt)));
  const byCount = counted && leftByCount(steps, counted, now);
  const left = usual.length > 0 ? leftByUsual(steps, usual, now) : byCount;
  if (left === undefined) return UNKNOWN;
  return {
    share: taken + left === 0 ? 0 : Math.min(MOST_SHARE, taken / (taken + left)),
    left,
    basis: usual.length > 0 ? "earlier runs" : "count",
  };
}
