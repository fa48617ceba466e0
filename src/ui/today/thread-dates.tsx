"use client";
import { useWidth } from "../charts/use-width";
import { FIRST_WIDTH, threadAxis, WIDEST_THREAD } from "./thread-axis";

/** Dates over the threads. */
export function ThreadDates({ from, until }: { readonly from: number; readonly until: number }) {
  const [room, width] = useWidth<HTMLDivElement>(WIDEST_THREAD, FIRST_WIDTH);
  return (
    <div ref={room} className="w-0 min-w-full pr-6">
      <svg width={width} height="16" aria-hidden className="block">
        {threadAxis(from, until, width).ticks.map(({ value, at, label }) => (
          <text key={value} x={at} y="12" textAnchor="middle" fontSize="12" fill="var(--faded)">
            {label}
          </text>
        ))}
      </svg>
    </div>
  );
}
