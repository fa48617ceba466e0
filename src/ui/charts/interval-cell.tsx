import { cellWidth } from "./cell-axis";
import type { PlacedAxis } from "./scale";

interface Props {
  readonly axis: PlacedAxis;
  /** What it shows, in words. */
  readonly label: string;
  readonly value: number | null | undefined;
  readonly interval?: readonly [number, number] | undefined;
  /** A value that all rows are compared with: a dashed line across. */
  readonly reference?: number | null | undefined;
  /** Single values beside the one that counts, such as those of the folds: short strokes. */
  readonly parts?: readonly number[];
  /** Another value, such as the base rate: an open ring. */
  readonly other?: number | null | undefined;
  readonly isWorse?: boolean;
}

const [HEIGHT, MIDDLE] = [16, 8];
const isNumber = (value: number | null | undefined): value is number => typeof value === "number";

/** A value with its interval on the axis of its column. */
export function IntervalCell({
  axis,
  label,
  value,
  interval,
  reference,
  parts = [],
  other,
  isWorse = false,
}: Props) {
  const ink = isWorse ? "var(--madder)" : "var(--woad)";
  const { place } = axis;
  return (
    <svg width={cellWidth(axis)} height={HEIGHT} role="img" aria-label={label} className="block">
      <line x1={axis.range[0]} x2={axis.range[1]} y1={MIDDLE} y2={MIDDLE} stroke="var(--weft)" />
      {isNumber(reference) && (
        <line
          x1={place(reference)}
          x2={place(reference)}
          y2={HEIGHT}
          stroke="var(--faded)"
          strokeDasharray="3 2"
        />
      )}
      {interval && (
        <line
          x1={place(interval[0])}
          x2={place(interval[1])}
          y1={MIDDLE}
          y2={MIDDLE}
          stroke={ink}
          strokeWidth="3"
          opacity="0.55"
        />
      )}
      {parts.map((part, index) => (
        <line key={index} x1={place(part)} x2={place(part)} y1="4" y2="12" stroke="var(--plum)" />
      ))}
      {isNumber(other) && <circle cx={place(other)} cy={MIDDLE} r="3.5" fill="none" stroke="var(--faded)" />}
      {isNumber(value) && <circle cx={place(value)} cy={MIDDLE} r="3.5" fill={ink} />}
    </svg>
  );
}
