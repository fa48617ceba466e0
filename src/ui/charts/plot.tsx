"use client";
import { useMemo, useRef, useState, type ReactNode } from "react";
import { Axes } from "./axes";
import { ChartTools } from "./chart-tools";
import { DensityMark, type DensityPoint } from "./density-mark";
import { layOutPlot } from "./layout";
import { Legend } from "./legend";
import { BandMark, Marker, SeriesMark } from "./marks";
import { PlotReading } from "./plot-reading";
import { PlotTable } from "./plot-table";
import type { AxisSpec } from "./scale";
import type { Band, Series } from "./series";
import { SPAN_ROOM, SpanMark, type Span } from "./span-mark";
import { useReading } from "./use-reading";
import { useWidth } from "./use-width";

interface Props {
  readonly title: string;
  /** A figure beside the title, such as the area under a curve. */
  readonly note?: ReactNode;
  readonly x: AxisSpec;
  readonly y: AxisSpec;
  readonly series: readonly Series[];
  readonly bands?: readonly Band[];
  /** Where the rows lie, at the foot of the chart. */
  readonly density?: readonly DensityPoint[];
  /** Periods of the horizontal axis, at the foot of the chart. */
  readonly spans?: readonly Span[];
  /** A point to show, such as the current threshold. */
  readonly marker?: readonly [number, number] | undefined;
  /** What it shows in one sentence, for those who do not see it; the title when left out. */
  readonly label?: string;
  /** Largest width and the height, in pixels. */
  readonly width?: number;
  readonly height?: number;
}

const NO_BANDS: readonly Band[] = [];

/** A chart with titled axes and a legend, that is read by pointer, keys or as a table, and kept as a file. */
export function Plot({
  title,
  note,
  x,
  y,
  series,
  bands = NO_BANDS,
  density,
  spans,
  marker,
  label = title,
  width: most = 400,
  height = 260,
}: Props) {
  const [frame, width] = useWidth<HTMLElement>(most);
  const drawing = useRef<SVGSVGElement>(null);
  const [table, setTable] = useState(false);
  const layout = useMemo(
    () => layOutPlot({ x, y, series, bands, foot: spans ? SPAN_ROOM : 0 }, width, height),
    [x, y, series, bands, spans, width, height],
  );
  const reading = useReading(series, layout);
  return (
    <figure ref={frame} className="min-w-0" style={{ width: most, maxWidth: "100%" }}>
      <figcaption className="mb-1 flex items-baseline gap-2">
        <span className="font-medium">{title}</span>
        {note !== undefined && <span className="figure text-faded">{note}</span>}
        <span className="ml-auto">
          <ChartTools title={title} drawing={drawing} table={table} onTable={setTable} />
        </span>
      </figcaption>
      <div className="relative" style={{ height }}>
        <svg ref={drawing} width={width} height={height} role="img" aria-label={label}>
          <Axes layout={layout} />
          {density && <DensityMark layout={layout} points={density} />}
          {spans && <SpanMark layout={layout} spans={spans} />}
          {bands.map((band) => (
            <BandMark key={band.name} layout={layout} band={band} />
          ))}
          {series.map((one) => (
            <SeriesMark key={one.name} layout={layout} series={one} />
          ))}
          {marker && <Marker at={[layout.x.place(marker[0]), layout.y.place(marker[1])]} />}
        </svg>
        <PlotReading title={title} layout={layout} control={reading} />
      </div>
      {series.length + bands.length > 1 && <Legend series={series} bands={bands} />}
      {table && <PlotTable series={series} layout={layout} />}
    </figure>
  );
}
