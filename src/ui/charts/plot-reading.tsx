"use client";
import type { PlotLayout } from "./layout";
import type { Reading } from "./reading";
import { STYLES } from "./series";
import type { ReadingControl } from "./use-reading";

interface Props {
  readonly title: string;
  readonly layout: PlotLayout;
  readonly control: ReadingControl;
}

/** A reading in one line, for those who hear it. */
const spoken = ({ x, values }: Reading, layout: PlotLayout): string =>
  [
    `${layout.x.title} ${layout.x.describe(x)}`,
    ...values.map(({ series, point }) =>
      `${series.name} ${layout.y.describe(point.y)} ${point.note ?? ""}`.trim(),
    ),
  ].join(", ");

/** The surface over a plot that reads it: pointer and arrow keys move, a tooltip says the values. */
export function PlotReading({ title, layout, control }: Props) {
  const { x, y } = layout;
  const { reading, at, count } = control;
  if (count === 0) return null;
  return (
    <>
      <div
        role="slider"
        tabIndex={0}
        aria-label={`Read ${title}`}
        aria-valuemin={0}
        aria-valuemax={count - 1}
        aria-valuenow={at}
        aria-valuetext={reading ? spoken(reading, layout) : "Use the arrow keys to read values."}
        className="absolute cursor-crosshair"
        style={{
          left: x.range[0],
          top: y.range[1],
          width: x.range[1] - x.range[0],
          height: y.range[0] - y.range[1],
        }}
        onPointerMove={control.onPointerMove}
        onPointerLeave={control.leave}
        onBlur={control.leave}
        onKeyDown={control.onKeyDown}
      />
      {reading && <Tooltip reading={reading} layout={layout} />}
    </>
  );
}

/** What is read, beside its place; on its left where the right has no room. */
function Tooltip({ reading, layout }: { readonly reading: Reading; readonly layout: PlotLayout }) {
  const left = layout.x.place(reading.x);
  const isRight = left < layout.width * 0.6;
  return (
    <>
      <span
        className="pointer-events-none absolute w-px bg-ink"
        style={{ left, top: layout.y.range[1], height: layout.y.range[0] - layout.y.range[1] }}
      />
      <div
        aria-hidden
        className="pointer-events-none absolute z-10 max-w-72 rounded border border-rule bg-paper px-2 py-1 text-caption shadow-sm"
        style={{
          top: layout.y.range[1],
          ...(isRight ? { left: left + 8 } : { right: layout.width - left + 8 }),
        }}
      >
        <p className="whitespace-nowrap text-faded">
          {layout.x.title} <span className="figure text-ink">{layout.x.describe(reading.x)}</span>
        </p>
        {reading.values.map(({ series, point }) => (
          <p key={series.name} className="whitespace-nowrap">
            <span style={{ color: STYLES[series.look].stroke }}>{series.name}</span>{" "}
            <span className="figure">{layout.y.describe(point.y)}</span>
            {point.note && <span className="text-faded"> {point.note}</span>}
          </p>
        ))}
      </div>
    </>
  );
}
