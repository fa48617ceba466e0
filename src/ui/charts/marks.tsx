import { area, curveLinear, curveStepAfter, line, symbol } from "d3-shape";
import type { PlotLayout } from "./layout";
import { PointLabels } from "./point-labels";
import { STYLES, type Band, type Point, type Series } from "./series";

/** Area of a dot in square pixels, and of the largest one where weights differ. */
const [DOT_AREA, LARGEST_DOT] = [26, 64];

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
    .y((point) => y.place(point.y))
    .curve(mark === "steps" ? curveStepAfter : curveLinear);
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
      {points.map(
        (point, index) =>
          point.low !== undefined &&
          point.high !== undefined && (
            <line
              key={index}
              x1={x.place(point.x)}
              x2={x.place(point.x)}
              y1={y.place(point.low)}
              y2={y.place(point.high)}
              stroke={style.stroke}
            />
          ),
      )}
      {(mark === "dots" || mark === "dotted line") &&
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
            opacity={mark === "dots" ? 0.65 : 1}
          />
        ))}
      <PointLabels layout={{ x, y }} points={points} />
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
