import { cellWidth } from "./cell-axis";
import { scaleLinear } from "d3-scale";
import type { PlacedAxis } from "./scale";

const HEIGHT = 12;

/** A value as a bar from 0 on the axis of its column, with the range of its repetitions as a line. The figure stands beside it. */
export function BarCell({
  axis,
  value,
  range,
}: {
  readonly axis: PlacedAxis;
  readonly value: number;
  readonly range?: readonly [number, number];
}) {
  const zero = axis.place(0);
  const end = axis.place(value);
  return (
    <svg width={cellWidth(axis)} height={HEIGHT} aria-hidden className="block">
      <line x1={zero} x2={zero} y2={HEIGHT} stroke="var(--rule)" />
      <rect
        x={Math.min(zero, end)}
        y="2"
        height={HEIGHT - 4}
        width={Math.abs(end - zero)}
        fill={value < 0 ? "var(--woad)" : "var(--plum)"}
        opacity="0.75"
      />
      {range && (
        <line x1={axis.place(range[0])} x2={axis.place(range[1])} y1="6" y2="6" stroke="var(--ink)" />
      )}
    </svg>
  );
}

/** A share of a whole as a bar in its frame. The figure stands beside it. */
export function ShareCell({ share, width = 120 }: { readonly share: number; readonly width?: number }) {
  const place = scaleLinear([0, 1], [0, width]).clamp(true);
  return (
    <svg width={width} height="9" aria-hidden className="mr-2 inline">
      <rect width={width} height="9" fill="var(--weft)" />
      <rect width={place(share)} height="9" fill="var(--woad)" />
    </svg>
  );
}
