import { scaleBand, scaleLinear } from "d3-scale";
import type { ColumnProfile } from "@/core/evaluate/table-profile";

/** Pixels of the picture, and how many frequent values it shows at most. */
const [WIDTH, HEIGHT, MOST_VALUES] = [56, 14, 12];

/** How a column's values are distributed, as small bars: along its range, or its most frequent values. */
export function ColumnShape({ profile }: { readonly profile: ColumnProfile | undefined }) {
  const rows = (profile && profile.histogram.length > 0 ? profile.histogram : profile?.topValues) ?? [];
  const shown = rows.slice(0, profile && profile.histogram.length > 0 ? rows.length : MOST_VALUES);
  if (shown.length === 0) return null;
  const places = shown.map((_, place) => String(place));
  const x = scaleBand(places, [0, WIDTH]).paddingInner(0.1);
  const y = scaleLinear([0, Math.max(1, ...shown.map((bar) => bar.rows))], [0, HEIGHT - 1]);
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden className="shrink-0">
      {shown.map((bar, place) => (
        <rect
          key={place}
          x={x(places[place]!)}
          y={HEIGHT - 1 - y(bar.rows)}
          width={Math.min(8, x.bandwidth())}
          height={y(bar.rows)}
          fill="var(--woad)"
          opacity="0.75"
        />
      ))}
      <line x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke="var(--rule)" />
    </svg>
  );
}
