import { formatCount } from "@/core/format/numbers";

interface Reject {
  readonly line: number;
  readonly reason: string;
  readonly text: string;
}

/** Letters of a row that are shown. */
const MOST_LETTERS = 100;

/** Rows with their line and what is wrong with them. */
export function RejectList({
  rejects,
  label,
}: {
  readonly rejects: readonly Reject[];
  readonly label: string;
}) {
  return (
    <ul className="mt-1 max-h-48 overflow-auto text-caption" aria-label={label} tabIndex={0}>
      {rejects.map(({ line, reason, text }) => (
        <li key={`${line} ${reason}`}>
          <span className="figure">line {line}</span>: {reason}{" "}
          <code className="text-faded">{text.slice(0, MOST_LETTERS)}</code>
        </li>
      ))}
    </ul>
  );
}

/** Rows of the file that cannot be read at all. */
export function BrokenRows({ count, rows }: { readonly count: number; readonly rows: readonly Reject[] }) {
  if (count === 0) return null;
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-madder">{formatCount(count, "row")} cannot be read</summary>
      <RejectList rejects={rows} label="Rows that cannot be read" />
    </details>
  );
}
