import { scaleLinear } from "d3-scale";
import type { PlotLayout } from "./layout";

/** How many rows a curve rests on at one place. */
export interface DensityPoint {
  readonly x: number;
  readonly rows: number;
}

/** The part of the height that the highest bar takes. */
const SHARE = 0.16;

/** Thin bars at the foot of a chart: where the rows lie. */
export function DensityMark({
  layout: { x, y },
  points,
}: {
  readonly layout: PlotLayout;
  readonly points: readonly DensityPoint[];
}) {
  const [bottom, top] = y.range;
  const height = scaleLinear(
    [0, Math.max(1, ...points.map(({ rows }) => rows))],
    [0, (bottom - top) * SHARE],
  );
  const width = Math.max(1.5, (x.range[1] - x.range[0]) / Math.max(1, points.length) / 3);
  return points.map((point) => (
    <rect
      key={point.x}
      x={x.place(point.x) - width / 2}
      y={bottom - height(point.rows)}
      width={width}
      height={height(point.rows)}
      fill="var(--faded)"
      opacity="0.35"
    >
      <title>{`${x.describe(point.x)}: ${point.rows} rows`}</title>
    </rect>
  ));
}
