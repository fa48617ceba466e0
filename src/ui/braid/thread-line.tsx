import { formatShare } from "@/core/format/numbers";
import { memo } from "react";
import type { MarkKind, Thread } from "@/core/plan/braid";
import { countKey, crossingX, FAMILY_LOOK, stretchSpan, THREAD_HEIGHT, threadWeight } from "./geometry";
import type { Counts } from "./use-counts";

const MIDDLE = THREAD_HEIGHT / 2;

export function completeness(
  thread: Thread,
  index: number,
  counts: ReadonlyMap<string, Counts>,
): number | undefined {
  const stretch = thread.stretches[index];
  const measured = stretch && counts.get(countKey(stretch.strand, stretch.after));
  if (!measured || !stretch || measured.estimated === true) return undefined;
  if (measured.rows === 0) return 0;
  // Indicator columns are never missing, and are not measured one by one.
  const present = measured.present[stretch.column];
  return present === undefined ? 1 : present / measured.rows;
}

/** The sign where a step crosses a thread. Shape says what happens: read, written, learned, joined, ended. */
export function Mark({
  kind,
  x,
  stroke,
}: {
  readonly kind: MarkKind;
  readonly x: number;
  readonly stroke: string;
}) {
  switch (kind) {
    case "reads":
      return <circle cx={x} cy={MIDDLE} r={3.4} fill="var(--linen)" stroke={stroke} strokeWidth={1.5} />;
    case "writes":
      return <circle cx={x} cy={MIDDLE} r={4.4} fill={stroke} />;
    case "learns":
      return <path d={`M${x} ${MIDDLE - 6} l6 6 l-6 6 l-6 -6 z`} fill="var(--madder)" />;
    case "joins":
      return (
        <path
          d={`M${x - 4} ${MIDDLE - 7} v7 a4 4 0 0 0 4 4 h1`}
          fill="none"
          stroke={stroke}
          strokeWidth={2.4}
          strokeLinecap="round"
        />
      );
    case "ends":
      return <path d={`M${x} ${MIDDLE - 5} v10`} stroke={stroke} strokeWidth={2} />;
  }
}

export const MARK_WORDS: Readonly<Record<MarkKind, string>> = {
  reads: "read",
  writes: "written",
  learns: "learned from",
  joins: "joined",
  ends: "dropped here",
};

interface Props {
  readonly thread: Thread;
  readonly crossings: number;
  readonly width: number;
  readonly counts: ReadonlyMap<string, Counts>;
  readonly selected: number;
}

interface Run {
  readonly from: number;
  readonly to: number;
  readonly look: { readonly stroke: string; readonly dash: string };
  readonly complete: number | undefined;
  readonly tip: string;
}

/** Stretches that look the same, drawn as one: most threads pass most steps unchanged. */
function runsOf(thread: Thread, crossings: number, counts: ReadonlyMap<string, Counts>): readonly Run[] {
  const runs: Run[] = [];
  thread.stretches.forEach((stretch, index) => {
    const [from, to] = stretchSpan(stretch, crossings);
    const complete = completeness(thread, index, counts);
    const tip =
      complete === undefined
        ? stretch.type
        : `${stretch.type}, ${complete === 1 ? "complete" : `${formatShare(1 - complete)} missing`}`;
    const last = runs.at(-1);
    if (last && last.to === from && last.tip === tip && last.look === FAMILY_LOOK[stretch.family])
      runs[runs.length - 1] = { ...last, to };
    else runs.push({ from, to, look: FAMILY_LOOK[stretch.family], complete, tip });
  });
  return runs;
}

/** One column's thread across all crossings: thickness is completeness, dash and hue its type. A picked thread hides the lines behind it and shows the selected one itself. */
export const ThreadLine = memo(function ThreadLine({ thread, crossings, width, counts, selected }: Props) {
  const lastFamily = thread.stretches.at(-1)?.family ?? "other";
  return (
    <svg width={width} height={THREAD_HEIGHT} aria-hidden className="block">
      {selected >= 0 && (
        <path d={`M${crossingX(selected)} 0V${THREAD_HEIGHT}`} stroke="var(--madder)" strokeWidth={1.5} />
      )}
      {runsOf(thread, crossings, counts).map((run) => (
        <line
          key={run.from}
          x1={run.from}
          x2={run.to}
          y1={MIDDLE}
          y2={MIDDLE}
          stroke={run.look.stroke}
          strokeDasharray={run.look.dash}
          strokeWidth={threadWeight(run.complete)}
          opacity={run.complete === undefined ? 0.45 : 1}
        >
          <title>{run.tip}</title>
        </line>
      ))}
      {thread.marks.map((mark) => (
        <Mark
          key={mark.crossing}
          kind={mark.kind}
          x={crossingX(mark.crossing)}
          stroke={FAMILY_LOOK[lastFamily].stroke}
        />
      ))}
    </svg>
  );
});
