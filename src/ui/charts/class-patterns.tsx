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

/** The patterns, to be put once on a page that paints with them. */
export function ClassPatterns() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden>
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
    </svg>
  );
}

/** Shares of classes as a bar. @param shares by class, in the order of the patterns; they add up to 1 */
export function ShareBar({ shares, label }: { readonly shares: readonly number[]; readonly label: string }) {
  const starts = shares.map((_, place) => shares.slice(0, place).reduce((sum, share) => sum + share, 0));
  return (
    <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="h-2 w-full" role="img" aria-label={label}>
      {shares.map((share, place) => (
        <rect key={place} x={100 * starts[place]!} width={100 * share} height="8" fill={classPaint(place)} />
      ))}
    </svg>
  );
}

/** What the patterns stand for. */
export function ClassLegend({ classes }: { readonly classes: readonly string[] }) {
  const shown = classes.length > MOST_PATTERNS + 1 ? classes.slice(0, MOST_PATTERNS) : classes;
  const more = classes.length - shown.length;
  return (
    <ul className="flex list-none flex-wrap gap-x-4 gap-y-1 text-sm" aria-label="Classes">
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
