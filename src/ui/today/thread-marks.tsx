import type { Mark, MarkKind } from "@/core/schedule/thread";

/** Words of a mark, and its colour; each has a shape of its own too. */
export const MARKS: Readonly<Record<MarkKind, { readonly says: string; readonly colour: string }>> = {
  landed: { says: "done", colour: "var(--woad)" },
  running: { says: "running", colour: "var(--woad)" },
  late: { says: "late", colour: "var(--weld)" },
  skipped: { says: "skipped", colour: "var(--faded)" },
  failed: { says: "failed", colour: "var(--madder)" },
};

interface Props {
  readonly mark: Mark;
  readonly x: number;
  /** The thread, and the end of its stroke above: the more rows, the higher. */
  readonly base: number;
  readonly top: number;
}

const CROSS = 3.5;

/** One time of a schedule on its thread: a stroke that is as high as its rows, or a sign. */
export function ThreadMark({ mark, x, base, top }: Props) {
  const { colour } = MARKS[mark.kind];
  switch (mark.kind) {
    case "landed":
      return <line x1={x} x2={x} y1={base} y2={top} stroke={colour} strokeWidth="2.5" />;
    case "running":
      return (
        <line x1={x} x2={x} y1={base} y2={top} stroke={colour} strokeWidth="2.5" strokeDasharray="2 2" />
      );
    case "late":
      return (
        <g stroke={colour} strokeWidth="2">
          <line x1={x} x2={x} y1={base} y2={top} />
          <path d={`M ${x - CROSS} ${top} h ${2 * CROSS}`} />
        </g>
      );
    case "skipped":
      return <circle cx={x} cy={base} r="3" fill="var(--linen)" stroke={colour} strokeWidth="1.5" />;
    case "failed":
      return (
        <path
          d={`M ${x - CROSS} ${base - CROSS} l ${2 * CROSS} ${2 * CROSS} m 0 ${-2 * CROSS} l ${-2 * CROSS} ${2 * CROSS}`}
          stroke={colour}
          strokeWidth="2"
        />
      );
  }
}

/** What the signs of the threads mean. */
export function ThreadLegend() {
  return (
    <ul className="flex flex-wrap gap-x-4 text-caption text-faded" aria-label="Signs">
      {(Object.keys(MARKS) as MarkKind[]).map((kind) => (
        <li key={kind} className="flex items-center gap-1">
          <svg width="12" height="16" aria-hidden>
            <ThreadMark
              mark={{ at: 0, kind, rows: 0, times: 1, run: undefined }}
              x={6}
              base={kind === "failed" || kind === "skipped" ? 8 : 14}
              top={2}
            />
          </svg>
          {MARKS[kind].says}
        </li>
      ))}
    </ul>
  );
}
