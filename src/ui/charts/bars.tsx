import { formatNumber } from "@/core/format/numbers";
/** A histogram in one line of a table: bars on a common base, with the range of each in its title. */
export function Bars({
  bars,
  width = 260,
  height = 34,
}: {
  readonly bars: readonly { readonly from: string; readonly to: string; readonly rows: number }[];
  readonly width?: number;
  readonly height?: number;
}) {
  const most = Math.max(1, ...bars.map((each) => each.rows));
  const step = width / bars.length;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Histogram from ${bars[0]?.from} to ${bars.at(-1)?.to}`}
    >
      {bars.map((each, index) => {
        const size = each.rows === 0 ? 0 : Math.max(1, (each.rows / most) * (height - 2));
        return (
          <rect
            key={each.from + index}
            x={index * step + 0.5}
            y={height - 1 - size}
            width={Math.max(1, step - 1)}
            height={size}
            fill="var(--woad)"
            opacity={0.75}
          >
            <title>{`${each.from} to ${each.to}: ${formatNumber(each.rows)} rows`}</title>
          </rect>
        );
      })}
      <line x1={0} x2={width} y1={height - 0.5} y2={height - 0.5} stroke="var(--rule)" />
    </svg>
  );
}
