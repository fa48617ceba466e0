import type { PlotLayout } from "./layout";

/** A period of the horizontal axis, such as when something was in service. */
export interface Span {
  readonly label: string;
  readonly from: number;
  readonly to: number;
}

/** Pixels of a bar, of its distance from the axis, and of a letter of its label. */
const [HEIGHT, DISTANCE, LETTER] = [15, 4, 6.5];
/** Pixels that bars need between the values and the axis. */
export const SPAN_ROOM = HEIGHT + 2 * DISTANCE;

/** Bars at the foot of a chart, one after the other, each with its label where it has room. */
export function SpanMark({
  layout: { x, bottom },
  spans,
}: {
  readonly layout: PlotLayout;
  readonly spans: readonly Span[];
}) {
  const top = bottom - DISTANCE - HEIGHT;
  return spans.map(({ label, from, to }, place) => {
    const left = x.place(from);
    const width = Math.max(2, x.place(to) - left);
    return (
      <g key={place}>
        <rect x={left} y={top} width={width} height={HEIGHT} fill="var(--moss)" stroke="var(--paper)">
          <title>{`${label}: ${x.describe(from)} to ${x.describe(to)}`}</title>
        </rect>
        {width > LETTER * label.length + 8 && (
          <text x={left + 5} y={top + HEIGHT - 3.5} fontSize="12" fill="var(--paper)">
            {label}
          </text>
        )}
      </g>
    );
  });
}
