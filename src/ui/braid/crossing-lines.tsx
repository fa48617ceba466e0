import { CROSSING_WIDTH, crossingX } from "./geometry";

interface Props {
  readonly crossings: number;
  /** Index of the selected crossing, or -1. */
  readonly selected: number;
}

/** The upright lines of all crossings behind the threads: one tiled background for all rows, which costs nothing while they scroll. */
export function CrossingLines({ crossings, selected }: Props) {
  return (
    <div
      aria-hidden
      className="pointer-events-none absolute inset-y-0 left-0"
      style={{
        width: crossings * CROSSING_WIDTH,
        backgroundImage: "linear-gradient(to right, var(--rule) 1px, transparent 1px)",
        backgroundSize: `${CROSSING_WIDTH}px 100%`,
        backgroundPositionX: CROSSING_WIDTH / 2,
      }}
    >
      {selected >= 0 && (
        <div className="absolute inset-y-0 w-0.5 bg-madder" style={{ left: crossingX(selected) - 0.5 }} />
      )}
    </div>
  );
}
