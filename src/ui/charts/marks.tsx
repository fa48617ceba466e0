import { area, line, symbol } from "d3-shape";
import type { PlotLayout } from "./layout";
import { STYLES, type Band, type Point, type Series } from "./series";

/** Area of a dot in square pixels, and of the largest one where weights differ. */
const [DOT_AREA, LARGEST_DOT] = [20, 64];

/** A line, dots, or both. */
export function SeriesMark({
  layout: { x, y },
  series: { name, look, points, mark = "line" },
}: {
  readonly layout: PlotLayout;
  readonly series: Series;
}) {
  const style = STYLES[look];
  const path = line<Point>()
    .x((point) => x.place(point.x))
    .y((point) => y.place(point.y));
  return (
    <g>
      {mark !== "dots" && (
        <path
          d={path([...points]) ?? ""}
          fill="none"
          stroke={style.stroke}
          strokeWidth={1.8}
          strokeDasharray={style.dash}
        >
          <title>{name}</title>
        </path>
      )}
      {mark !== "line" &&
        points.map((point, index) => (
          <path
            key={index}
            transform={`translate(${x.place(point.x)} ${y.place(point.y)})`}
            d={
              symbol(
                style.symbol,
                point.weight === undefined ? DOT_AREA : 8 + LARGEST_DOT * point.weight,
              )() ?? ""
            }
            fill={style.stroke}
            opacity={mark === "dots" ? 0.5 : 1}
          />
        ))}
    </g>
  );
}

/** The area between two lines. */
export function BandMark({
  layout: { x, y },
  band: { name, look, points },
}: {
  readonly layout: PlotLayout;
  readonly band: Band;
}) {
  const path = area<Band["points"][number]>()
    .x((point) => x.place(point.x))
    .y0((point) => y.place(point.low))
    .y1((point) => y.place(point.high));
  return (
    <path d={path([...points]) ?? ""} fill={STYLES[look].stroke} opacity="0.16">
      <title>{name}</title>
    </path>
  );
}

/** The one point that is meant, such as the current threshold. */
export function Marker({ at: [left, top] }: { readonly at: readonly [number, number] }) {
  return (
    <g>
      <circle cx={left} cy={top} r={5.5} fill="var(--paper)" stroke="var(--madder)" strokeWidth={2.2} />
      <circle cx={left} cy={top} r={1.8} fill="var(--madder)" />
    </g>
  );
}
