interface Props {
  /** What is awaited, in words. */
  readonly label: string;
  /** How many lines the result usually has, the head of a table included. */
  readonly lines?: number;
  /** How many columns; one is a text. */
  readonly columns?: number;
  readonly className?: string;
}

/** Widths of the bars in percent of their column, over and over: values are not equally long. */
const WIDTHS = [62, 45, 78, 54, 70];

/** The width of a bar at a place, in percent of its room. */
const widthAt = (place: number): string => `${WIDTHS[place % WIDTHS.length]}%`;

/** The shape of a table or a text while it is read. It shows after a moment, so that what comes at once does not flicker. */
export function Skeleton({ label, lines = 8, columns = 4, className = "px-4 py-3" }: Props) {
  return (
    <div className={className}>
      <p role="status" className="text-faded">
        {label}
      </p>
      <div aria-hidden className="skeleton mt-2" style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }}>
        {Array.from({ length: lines * columns }, (_, place) => (
          <span key={place} className="skeleton-line">
            <span style={{ width: widthAt(place * 3 + Math.floor(place / columns)) }} />
          </span>
        ))}
      </div>
    </div>
  );
}

/** The shape of the cells of a row of a table while they are read. */
export const SkeletonCells = ({ label, cells }: { readonly label: string; readonly cells: number }) =>
  Array.from({ length: cells }, (_, place) => (
    <td key={place}>
      {place === 0 && <span className="sr-only">{label}</span>}
      <span aria-hidden className="skeleton block">
        <span className="skeleton-line">
          <span style={{ width: widthAt(place * 3) }} />
        </span>
      </span>
    </td>
  ));
