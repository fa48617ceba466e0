import { threadAxis, THREAD_WIDTH } from "./thread-axis";

/** Dates over the threads. */
export function ThreadDates({ from, until }: { readonly from: number; readonly until: number }) {
  return (
    <svg width={THREAD_WIDTH} height="16" aria-hidden className="block">
      {threadAxis(from, until).ticks.map(({ value, at, label }) => (
        <text key={value} x={at} y="12" textAnchor="middle" fontSize="11" fill="var(--faded)">
          {label}
        </text>
      ))}
    </svg>
  );
}
