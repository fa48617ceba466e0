import { symbol } from "d3-shape";
import { STYLES, type Band, type Series } from "./series";

/** Names of what is drawn, each with its line, dash and dot. */
export function Legend({
  series,
  bands,
}: {
  readonly series: readonly Series[];
  readonly bands: readonly Band[];
}) {
  return (
    <ul className="flex list-none flex-wrap gap-x-5 gap-y-1 text-caption text-faded">
      {series.map(({ name, look, mark = "line" }) => (
        <li key={name} className="inline-flex items-center gap-2">
          <svg width="26" height="10" aria-hidden>
            {mark !== "dots" && (
              <line
                x2="26"
                y1="5"
                y2="5"
                stroke={STYLES[look].stroke}
                strokeDasharray={STYLES[look].dash}
                strokeWidth="2"
              />
            )}
            {(mark === "dots" || mark === "dotted line") && (
              <path
                transform="translate(13 5)"
                d={symbol(STYLES[look].symbol, 26)() ?? ""}
                fill={STYLES[look].stroke}
              />
            )}
          </svg>
          {name}
        </li>
      ))}
      {bands.map(({ name, look }) => (
        <li key={name} className="inline-flex items-center gap-2">
          <svg width="26" height="10" aria-hidden>
            <rect width="26" height="10" fill={STYLES[look].stroke} opacity="0.25" />
          </svg>
          {name}
        </li>
      ))}
    </ul>
  );
}
