/** Classes that have a pattern of their own; all others share the last one. */
export const MOST_PATTERNS = 7;
const HUES = ["--woad", "--madder", "--moss", "--weld", "--plum", "--ink", "--woad", "--faded"] as const;
const SIZE = 6;

/** What is drawn in a tile: lines at an angle, dots, or nothing, so that classes are told apart without colour. */
const MARKS: readonly (readonly string[])[] = [
  [],
  ["M0 6L6 0"],
  ["M0 0L6 6"],
  ["M0 3H6"],
  ["M3 0V6"],
  ["M0 6L6 0", "M0 0L6 6"],
  ["M2 3a1 1 0 1 0 2 0a1 1 0 1 0 -2 0"],
  ["M0 3H6", "M3 0V6"],
];

const patternOf = (place: number): number => Math.min(place, MOST_PATTERNS);

/** Paint of the class at a place. */
export const classPaint = (place: number): string => `url(#class-pattern-${patternOf(place)})`;

/** The patterns of classes, within a drawing that paints with them. */
export function ClassPatternDefs() {
  return (
    <defs>
      {MARKS.map((marks, place) => {
        const hue = `var(${HUES[place]})`;
        return (
          <pattern
            key={place}
            id={`class-pattern-${place}`}
            width={SIZE}
            height={SIZE}
            patternUnits="userSpaceOnUse"
          >
            <rect width={SIZE} height={SIZE} fill={hue} opacity={marks.length === 0 ? 0.8 : 0.18} />
            {marks.map((mark) => (
              <path key={mark} d={mark} stroke={hue} strokeWidth="1.3" fill="none" />
            ))}
          </pattern>
        );
      })}
    </defs>
  );
}

/** The place and size of a bar in a drawing, in pixels. */
interface BarPlace {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Shares of classes as a bar within a drawing. @param shares by class, in the order of the patterns; they add up to 1 */
export function ShareBar({
  shares,
  place: { x, y, width, height },
}: {
  readonly shares: readonly number[];
  readonly place: BarPlace;
}) {
  const starts = shares.map((_, place) => shares.slice(0, place).reduce((sum, share) => sum + share, 0));
  return shares.map((share, place) => (
    <rect
      key={place}
      x={x + width * starts[place]!}
      y={y}
      width={width * share}
      height={height}
      fill={classPaint(place)}
    />
  ));
}

/** What the patterns stand for. */
export function ClassLegend({ classes }: { readonly classes: readonly string[] }) {
  const shown = classes.length > MOST_PATTERNS + 1 ? classes.slice(0, MOST_PATTERNS) : classes;
  const more = classes.length - shown.length;
  return (
    <ul className="flex list-none flex-wrap gap-x-4 gap-y-1 text-caption" aria-label="Classes">
      {[...shown, ...(more > 0 ? [`${more} others`] : [])].map((name, place) => (
        <li key={name} className="flex items-center gap-1.5">
          <svg width="18" height="10" aria-hidden>
            <rect width="18" height="10" fill={classPaint(place)} stroke="var(--rule)" />
          </svg>
          {name}
        </li>
      ))}
    </ul>
  );
}
