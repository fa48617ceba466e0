/** What became of a time of a schedule. */
export type MarkKind = "landed" | "late" | "running" | "skipped" | "failed";

/** A run of the work of a schedule. */
export interface ScheduledRun {
  readonly id: string;
  /** Its time, in milliseconds since 1970. */
  readonly at: number;
  readonly state: "queued" | "running" | "done" | "failed" | "cancelled";
  readonly rows: number | null;
  /** Minutes from the moment it was due to its end; null while it has none. */
  readonly minutes: number | null;
}

/** One place on the thread of a schedule: a time of it, or several close to each other. */
export interface Mark {
  readonly at: number;
  readonly kind: MarkKind;
  readonly rows: number;
  /** Times that are taken together. */
  readonly times: number;
  /** The run that a click opens: of several the one that its kind comes from; none of a skipped time. */
  readonly run: string | undefined;
}

/** Of several times the worst is shown. */
const GRAVITY: readonly MarkKind[] = ["landed", "running", "late", "skipped", "failed"];

const STATES: Readonly<Record<ScheduledRun["state"], MarkKind>> = {
  done: "landed",
  running: "running",
  queued: "running",
  failed: "failed",
  cancelled: "skipped",
};

function markOf({ id, at, state, rows, minutes }: ScheduledRun, lateAfter: number): Mark {
  const isLate = state === "done" && minutes !== null && minutes > lateAfter;
  return { at, kind: isLate ? "late" : STATES[state], rows: rows ?? 0, times: 1, run: id };
}

function worse(left: Mark, right: Mark): Mark {
  return GRAVITY.indexOf(right.kind) >= GRAVITY.indexOf(left.kind) ? right : left;
}

/** Marks of equal parts of the time, each part's together; as they are when there are few. */
function gather(marks: readonly Mark[], from: number, until: number, most: number): readonly Mark[] {
  if (marks.length <= most) return marks;
  const parts = new Map<number, Mark>();
  for (const mark of marks) {
    const part = Math.min(most - 1, Math.floor(((mark.at - from) / (until - from)) * most));
    const before = parts.get(part);
    const shown = before ? worse(before, mark) : mark;
    parts.set(part, {
      ...shown,
      rows: mark.rows + (before?.rows ?? 0),
      times: 1 + (before?.times ?? 0),
    });
  }
  return [...parts.values()];
}

/**
 * The thread of a schedule between two moments.
 * @param runs of its work in the order in which they were begun: of several for one time the last counts
 * @param slots its times, in milliseconds since 1970, that have been dealt with; those without a run after the first run were skipped
 * @param options lateAfter: minutes after which a run is late; most: marks at most
 * @returns marks in the order of time
 */
export function threadOf(
  runs: readonly ScheduledRun[],
  slots: readonly number[],
  options: {
    readonly from: number;
    readonly until: number;
    readonly lateAfter: number;
    readonly most: number;
  },
): readonly Mark[] {
  const { from, until, lateAfter, most } = options;
  const inside = runs.filter(({ at }) => at >= from && at <= until);
  const begun = new Map(inside.map((run) => [run.at, run]));
  const first = inside.reduce((least, { at }) => Math.min(least, at), Infinity);
  const skipped = slots
    .filter((at) => at > first && at <= until && !begun.has(at))
    .map((at): Mark => ({ at, kind: "skipped", rows: 0, times: 1, run: undefined }));
  const marks = [...[...begun.values()].map((run) => markOf(run, lateAfter)), ...skipped];
  return gather(
    marks.sort((left, right) => left.at - right.at),
    from,
    until,
    most,
  );
}

/** How many marks there are of each kind that occurs, the ones that need attention last. */
export function countKinds(marks: readonly Mark[]): readonly (readonly [MarkKind, number])[] {
  return GRAVITY.map(
    (kind) => [kind, marks.reduce((sum, mark) => sum + (mark.kind === kind ? mark.times : 0), 0)] as const,
  ).filter(([, count]) => count > 0);
}
