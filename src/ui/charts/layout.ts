import { placeAxis, type AxisSpec, type PlacedAxis } from "./scale";
import type { Band, Series } from "./series";

export interface PlotLayout {
  readonly width: number;
  readonly height: number;
  readonly x: PlacedAxis;
  readonly y: PlacedAxis;
  /** The pixel of the horizontal axis. */
  readonly bottom: number;
}

export interface PlotContent {
  readonly x: AxisSpec;
  readonly y: AxisSpec;
  readonly series: readonly Series[];
  readonly bands: readonly Band[];
  /** Pixels between the lowest value and the horizontal axis, for what stands at its foot. */
  readonly foot?: number;
}

const MARGIN = { top: 10, right: 14, bottom: 38 };
/** Pixels of a figure beside the vertical axis, and what the axis's title and the gaps take. */
const [FIGURE_WIDTH, TITLE_WIDTH] = [7.3, 30];
/** Pixels between ticks. */
const [TICK_ROOM_X, TICK_ROOM_Y] = [80, 44];

/**
 * Places both axes so that the figures of the vertical one have room.
 * @param content what is drawn
 * @param width in pixels
 * @param height in pixels
 */
export function layOutPlot(
  { x, y, series, bands, foot = 0 }: PlotContent,
  width: number,
  height: number,
): PlotLayout {
  const ys = [
    ...series.flatMap(({ points }) =>
      points.flatMap((point) => [point.y, point.low ?? point.y, point.high ?? point.y]),
    ),
    ...bands.flatMap(({ points }) => points.flatMap(({ low, high }) => [low, high])),
  ];
  const xs = [
    ...series.flatMap(({ points }) => points.map((point) => point.x)),
    ...bands.flatMap(({ points }) => points.map((point) => point.x)),
  ];
  const vertical = placeAxis(
    y,
    ys,
    [height - MARGIN.bottom - foot, MARGIN.top],
    Math.max(2, Math.round(height / TICK_ROOM_Y)),
  );
  const longest = Math.max(0, ...vertical.ticks.map(({ label }) => label.length));
  const left = TITLE_WIDTH + FIGURE_WIDTH * longest;
  const horizontal = placeAxis(
    { exact: true, ...x },
    xs,
    [left, Math.max(left + 40, width - MARGIN.right)],
    Math.max(2, Math.floor((width - left) / TICK_ROOM_X)),
  );
  return { width, height, x: horizontal, y: vertical, bottom: height - MARGIN.bottom };
}
