import { extent } from "d3-array";
import { scaleLinear, scalePoint } from "d3-scale";
import { line } from "d3-shape";

export interface TrendPoint {
  readonly name: string;
  readonly value: number;
}

interface Props {
  /** What it shows, in words. */
  readonly label: string;
  readonly points: readonly TrendPoint[];
  /** Largest value that has room; higher ones lie on the upper edge. The values' own range when left out. */
  readonly domain?: readonly [number, number];
  /** Values that matter: dashed lines across. */
  readonly bounds?: readonly number[];
  readonly width?: number;
  readonly height?: number;
}

const MARGIN = 4;
const DOT = { strokeWidth: 4.8, strokeLinecap: "round" } as const;

/** Values over time in a cell, the newest with a dot; those beyond the last bound are marked. */
export function TrendCell({ label, points, domain, bounds = [], width = 220, height = 30 }: Props) {
  const x = scalePoint(
    points.map(({ name }) => name),
    [MARGIN, width - MARGIN],
  );
  const [low = 0, high = 1] = domain ?? extent(points, ({ value }) => value);
  const y = scaleLinear([low ?? 0, high === low ? low + 1 : high], [height - MARGIN, MARGIN]).clamp(true);
  const limit = bounds.at(-1) ?? Infinity;
  const path = line<TrendPoint>()
    .x(({ name }) => x(name) ?? 0)
    .y(({ value }) => y(value));
  // Lines without length and with round ends: one element however many dots there are.
  const dotsAt = (marked: readonly TrendPoint[]): string =>
    marked.map(({ name, value }) => `M${x(name) ?? 0} ${y(value)}h0`).join("");
  const beyond = points.filter(({ value }) => value >= limit);
  const newest = points.at(-1);
  return (
    <svg width={width} height={height} role="img" aria-label={label} className="block">
      {bounds.map((bound) => (
        <line
          key={bound}
          x2={width}
          y1={y(bound)}
          y2={y(bound)}
          stroke="var(--faded)"
          strokeDasharray="2 3"
          opacity="0.7"
        />
      ))}
      <path d={path([...points]) ?? ""} fill="none" stroke="var(--woad)" strokeWidth="1.5" />
      <path d={dotsAt(beyond)} {...DOT} stroke="var(--madder)" />
      {newest && newest.value < limit && <path d={dotsAt([newest])} {...DOT} stroke="var(--woad)" />}
    </svg>
  );
}
