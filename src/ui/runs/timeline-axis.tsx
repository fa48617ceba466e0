import { formatDuration } from "@/core/format/numbers";
import { placeAxis } from "../charts/scale";

/** Ticks that have room over the bars. */
const TICKS = 4;

/** The columns of a run's steps: sign, state, step, bar, rows, time. */
export const STEP_COLUMNS = "grid-cols-[18px_110px_minmax(0,1fr)_minmax(150px,30%)_110px_120px] gap-2";

/** The time axis over the bars of one attempt, from its begin. @param milliseconds how long the attempt took */
export function TimelineAxis({ milliseconds }: { readonly milliseconds: number }) {
  const axis = placeAxis({ title: "since the start", exact: true }, [0, milliseconds], [0, 100], TICKS);
  return (
    <div className={`grid ${STEP_COLUMNS} border-b border-rule pb-1 text-caption text-faded`}>
      <span className="col-start-3">Step</span>
      <span className="relative h-4" aria-hidden>
        {axis.ticks.map(({ value, at, label }) => (
          <span
            key={label}
            className={`figure absolute whitespace-nowrap ${at > 0 ? "-translate-x-1/2" : ""}`}
            style={{ left: `${Math.min(at, 96)}%` }}
          >
            {value === 0 ? "0" : formatDuration(value)}
          </span>
        ))}
      </span>
      <span className="text-right">Rows</span>
      <span className="text-right">Time</span>
    </div>
  );
}
