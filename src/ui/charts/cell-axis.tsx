import { placeAxis, type AxisSpec, type PlacedAxis } from "./scale";

/** Width of a drawing in a cell, and its margin at both ends for dots. */
const [WIDTH, MARGIN] = [220, 8];

/**
 * The axis that all drawings of a table's column share.
 * @param spec what it shows
 * @param values all values that are drawn in the column
 */
export const cellAxis = (spec: AxisSpec, values: readonly (number | null | undefined)[]): PlacedAxis =>
  placeAxis(
    { exact: true, ...spec },
    values.filter((value): value is number => typeof value === "number"),
    [MARGIN, WIDTH - MARGIN],
    3,
  );

/** The width of a drawing on an axis, in pixels. */
export const cellWidth = ({ range }: PlacedAxis): number => range[1] + MARGIN;

/** The head of a column of drawings: its title over the figures of the axis. */
export function CellAxisHead({ axis, hint }: { readonly axis: PlacedAxis; readonly hint?: string }) {
  const width = cellWidth(axis);
  return (
    <span className="block font-normal" style={{ width }}>
      <span className="block text-caption text-faded">{hint ?? axis.title}</span>
      <svg width={width} height="14" aria-hidden className="block">
        {axis.ticks.map(({ value, at, label }) => (
          <text
            key={value}
            x={at}
            y="11"
            fontSize="12"
            fontFamily="var(--font-mono)"
            fill="var(--faded)"
            textAnchor={anchorAt(at, width)}
          >
            {label}
          </text>
        ))}
      </svg>
    </span>
  );
}

/** Figures near an end stay inside. */
function anchorAt(at: number, width: number): "start" | "middle" | "end" {
  if (at < 30) return "start";
  return at > width - 30 ? "end" : "middle";
}
