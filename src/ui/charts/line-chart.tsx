"use client";
import { formatNumber } from "@/core/format/numbers";
import { extent } from "d3-array";
import { scaleLinear, scaleLog } from "d3-scale";
import { line } from "d3-shape";

export interface ChartSeries {
  readonly name: string;
  readonly points: readonly (readonly [number, number])[];
  readonly stroke: string;
  readonly dash?: string;
  readonly dots?: boolean;
}

interface Props {
  readonly label: string;
  readonly xName: string;
  readonly yName: string;
  readonly series: readonly ChartSeries[];
  readonly xDomain?: readonly [number, number];
  readonly yDomain?: readonly [number, number];
  readonly logY?: boolean;
  /** Whether the horizontal axis counts something, so that only whole numbers are marked. */
  readonly counted?: boolean;
  readonly width?: number;
  readonly height?: number;
  /** A point to show, such as the current threshold. */
  readonly marker?: readonly [number, number] | undefined;
}

const MARGIN = { top: 10, right: 14, bottom: 34, left: 52 };
/** Pixels of a figure beside the vertical axis, and what its name takes. */
const [FIGURE_WIDTH, NAME_WIDTH] = [6.4, 26];

/** A plain chart of lines with named axes. */
export function LineChart({
  label,
  xName,
  yName,
  series,
  xDomain,
  yDomain,
  logY = false,
  counted = false,
  width = 380,
  height = 260,
  marker,
}: Props) {
  const all = series.flatMap((each) => each.points).filter(([, y]) => !logY || y > 0);
  const [x0, x1] = xDomain ?? (extent(all, ([x]) => x) as [number, number]);
  const [y0, y1] = yDomain ?? (extent(all, ([, y]) => y) as [number, number]);
  const range: [number, number] = [height - MARGIN.bottom, MARGIN.top];
  const y = logY
    ? scaleLog([y0 ?? 1e-3, y1 === y0 ? (y0 ?? 1) * 10 : (y1 ?? 1)], range).nice()
    : scaleLinear([y0 ?? 0, y1 === y0 ? (y0 ?? 0) + 1 : (y1 ?? 1)], range).nice();
  const ticks = logY ? y.ticks(4).filter((tick) => Math.abs(Math.log10(tick) % 1) < 1e-9) : y.ticks(5);
  const longest = Math.max(0, ...ticks.map((tick) => formatNumber(tick).length));
  const left = Math.max(MARGIN.left, NAME_WIDTH + FIGURE_WIDTH * longest);
  const x = scaleLinear([x0 ?? 0, x1 === x0 ? (x0 ?? 0) + 1 : (x1 ?? 1)], [left, width - MARGIN.right]);
  const path = line<readonly [number, number]>()
    .defined(([, value]) => !logY || value > 0)
    .x(([value]) => x(value))
    .y(([, value]) => y(value));
  return (
    <svg width={width} height={height} role="img" aria-label={label} className="max-w-full">
      {ticks.map((tick) => (
        <g key={tick}>
          <line x1={left} x2={width - MARGIN.right} y1={y(tick)} y2={y(tick)} stroke="var(--weft)" />
          <text
            x={left - 6}
            y={y(tick) + 3.5}
            textAnchor="end"
            fontSize="10.5"
            fontFamily="var(--font-mono)"
            fill="var(--faded)"
          >
            {formatNumber(tick)}
          </text>
        </g>
      ))}
      {x
        .ticks(5)
        .filter((tick) => !counted || Number.isInteger(tick))
        .map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={height - MARGIN.bottom + 15}
            textAnchor="middle"
            fontSize="10.5"
            fontFamily="var(--font-mono)"
            fill="var(--faded)"
          >
            {formatNumber(tick)}
          </text>
        ))}
      <line
        x1={left}
        x2={width - MARGIN.right}
        y1={height - MARGIN.bottom}
        y2={height - MARGIN.bottom}
        stroke="var(--rule)"
      />
      <text
        x={(left + width - MARGIN.right) / 2}
        y={height - 4}
        textAnchor="middle"
        fontSize="11.5"
        fill="var(--faded)"
      >
        {xName}
      </text>
      <text
        transform={`translate(12 ${(height - MARGIN.bottom + MARGIN.top) / 2}) rotate(-90)`}
        textAnchor="middle"
        fontSize="11.5"
        fill="var(--faded)"
      >
        {yName}
      </text>
      {series.map((each) => (
        <g key={each.name}>
          <path
            d={path(each.points) ?? ""}
            fill="none"
            stroke={each.stroke}
            strokeWidth={1.8}
            strokeDasharray={each.dash}
          >
            <title>{each.name}</title>
          </path>
          {each.dots &&
            each.points
              .filter(([, value]) => !logY || value > 0)
              .map(([px, py]) => (
                <circle key={px} cx={x(px)} cy={y(py)} r={2.6} fill={each.stroke}>
                  <title>{`${each.name}: ${py}`}</title>
                </circle>
              ))}
        </g>
      ))}
      {marker && (
        <g>
          <circle
            cx={x(marker[0])}
            cy={y(marker[1])}
            r={5.5}
            fill="var(--paper)"
            stroke="var(--madder)"
            strokeWidth={2.2}
          />
          <circle cx={x(marker[0])} cy={y(marker[1])} r={1.8} fill="var(--madder)" />
        </g>
      )}
    </svg>
  );
}
