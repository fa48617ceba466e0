import type { PlotLayout } from "./layout";
import type { Point } from "./series";

/** Pixels that a label takes, and its distance from the point. */
const [LETTER, LINE, DISTANCE] = [7.3, 12, 7];

interface Place {
  readonly left: number;
  readonly top: number;
  readonly width: number;
}

/** Whether two labels would cover each other. */
const overlap = (one: Place, other: Place): boolean =>
  Math.abs(one.top - other.top) < LINE &&
  one.left < other.left + other.width &&
  other.left < one.left + one.width;

/** Labels beside points: on the left where the right has no room, left out where one would cover another. */
export function PointLabels({
  layout: { x, y },
  points,
}: {
  readonly layout: Pick<PlotLayout, "x" | "y">;
  readonly points: readonly Point[];
}) {
  const taken: Place[] = [];
  return points.map((point, index) => {
    if (point.label === undefined) return null;
    const width = LETTER * point.label.length;
    const at = x.place(point.x);
    const isRight = at + DISTANCE + width < x.range[1];
    const place = { left: isRight ? at + DISTANCE : at - DISTANCE - width, top: y.place(point.y), width };
    if (taken.some((other) => overlap(place, other))) return null;
    taken.push(place);
    return (
      <text
        key={index}
        x={place.left}
        y={place.top + 4}
        fontSize="12"
        fontFamily="var(--font-mono)"
        fill="var(--ink)"
      >
        {point.label}
      </text>
    );
  });
}
