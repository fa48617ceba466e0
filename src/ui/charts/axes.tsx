import type { PlotLayout } from "./layout";

const FIGURE = { fontSize: "12", fontFamily: "var(--font-mono)", fill: "var(--faded)" } as const;
const TITLE = { fontSize: "12", fill: "var(--faded)", textAnchor: "middle" } as const;
const TICK = 4;

/** Both axes with their ticks, figures and titles; thin lines across lead from the vertical axis's ticks. */
export function Axes({ layout: { x, y, height, bottom } }: { readonly layout: PlotLayout }) {
  const [left, right] = x.range;
  const [lowest, top] = y.range;
  return (
    <g>
      {y.ticks.map(({ value, at, label }) => (
        <g key={value}>
          <line x1={left} x2={right} y1={at} y2={at} stroke="var(--weft)" />
          <text x={left - 6} y={at + 3.5} textAnchor="end" {...FIGURE}>
            {label}
          </text>
        </g>
      ))}
      {x.ticks.map(({ value, at, label }) => (
        <g key={value}>
          <line x1={at} x2={at} y1={bottom} y2={bottom + TICK} stroke="var(--rule)" />
          <text x={at} y={bottom + 16} textAnchor="middle" {...FIGURE}>
            {label}
          </text>
        </g>
      ))}
      <line x1={left} x2={right} y1={bottom} y2={bottom} stroke="var(--rule)" />
      <text x={(left + right) / 2} y={height - 5} {...TITLE}>
        {x.title}
      </text>
      <text transform={`translate(12 ${(lowest + top) / 2}) rotate(-90)`} {...TITLE}>
        {y.title}
      </text>
    </g>
  );
}
