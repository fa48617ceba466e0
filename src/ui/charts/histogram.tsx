import { formatNumber } from "@/core/format/numbers";
import { scaleBand, scaleLinear } from "d3-scale";

export interface Bin {
  readonly from: string;
  readonly to: string;
  readonly rows: number;
}

interface Props {
  readonly bins: readonly Bin[];
  readonly width?: number;
  readonly height?: number;
  /** Whether the ends of the axis are written beneath. */
  readonly ends?: boolean;
}

const END_HEIGHT = 14;

/** How many rows lie in each part of a column's range. */
export function Histogram({ bins, width = 220, height = 34, ends = false }: Props) {
  const places = bins.map((_, index) => String(index));
  const x = scaleBand(places, [0, width]).paddingInner(0.08);
  const y = scaleLinear([0, Math.max(1, ...bins.map(({ rows }) => rows))], [0, height - 2]);
  return (
    <svg
      width={width}
      height={height + (ends ? END_HEIGHT : 0)}
      role="img"
      aria-label={`Histogram from ${bins[0]?.from} to ${bins.at(-1)?.to}`}
      className="block max-w-full"
    >
      {bins.map(({ from, to, rows }, index) => {
        const size = rows === 0 ? 0 : Math.max(1, y(rows));
        return (
          <rect
            key={index}
            x={x(places[index]!)}
            y={height - 1 - size}
            width={Math.max(1, x.bandwidth())}
            height={size}
            fill="var(--woad)"
            opacity={0.75}
          >
            <title>{`${from} to ${to}: ${formatNumber(rows)} rows`}</title>
          </rect>
        );
      })}
      <line x2={width} y1={height - 0.5} y2={height - 0.5} stroke="var(--rule)" />
      {ends && (
        <g fontSize="12" fontFamily="var(--font-mono)" fill="var(--faded)">
          <text y={height + 11}>{bins[0]?.from}</text>
          <text x={width} y={height + 11} textAnchor="end">
            {bins.at(-1)?.to}
          </text>
        </g>
      )}
    </svg>
  );
}
