import type { AlignedFigure } from "@/core/format/align-figures";

/** A figure with its padding, which is neither read nor copied. */
export function Padded({ text, before, after }: AlignedFigure) {
  return (
    <span className="padded" data-before={before} data-after={after}>
      {text}
    </span>
  );
}

/** A figure in a column whose decimal points stand under each other. */
export function NumberCell({
  figure,
  className = "",
  testId,
}: {
  readonly figure: AlignedFigure;
  readonly className?: string;
  readonly testId?: string;
}) {
  return (
    <td className={`number ${className}`} data-testid={testId}>
      <Padded {...figure} />
    </td>
  );
}

/** An interval in a column where all lower and all upper ends stand under each other. */
export function IntervalFigures({
  ends,
  word = "–",
  title,
}: {
  /** None where there is no interval. */
  readonly ends: readonly [AlignedFigure, AlignedFigure] | undefined;
  /** What stands between the ends. */
  readonly word?: string;
  /** Why there is none. */
  readonly title?: string | undefined;
}) {
  return (
    <td className="number text-faded" title={ends ? undefined : title}>
      {ends ? (
        <>
          <Padded {...ends[0]} /> {word} <Padded {...ends[1]} />
        </>
      ) : (
        "–"
      )}
    </td>
  );
}
