"use client";
import { formatNumber } from "@/core/format/numbers";
import { obstacleWords, type Mend, type Obstacle } from "@/core/plan/obstacles";
import { Problems } from "../basic/problems";
import { usePosted } from "../queries/use-posted";

interface Props {
  readonly text: string;
  /** The share of the rows that is looked at. */
  readonly share?: number;
  /** What is said where nothing stands in the way; without it nothing is. */
  readonly none?: string;
  /** Whether nothing is said where the rows cannot be looked at. */
  readonly quiet?: boolean;
  readonly busy: boolean;
  readonly onMend: (mend: Mend) => void;
}

/** What the training rows have in store, said before anything is trained, each with what mends it for all columns at once. */
export function BeforeTraining({ text, share = 1, none, quiet = false, busy, onMend }: Props) {
  const { value, asking, failure } = usePosted<readonly Obstacle[]>("/api/draft/training", { text, share });
  if (quiet && failure) return null;
  if (asking)
    return (
      <p role="status" className="text-caption text-faded">
        Checking the training rows …
      </p>
    );
  if (failure)
    return <p className="text-caption text-faded">The training rows could not be checked: {failure}</p>;
  if (!value || value.length === 0) return none ? <p className="text-caption text-faded">{none}</p> : null;
  return (
    <ul aria-label="Before training" className="mb-5 space-y-2" data-testid="before-training">
      {value.map(({ problem, candidates, mend }) => (
        <li key={`${problem.code} ${problem.message}`} className="flex flex-wrap items-start gap-x-3 gap-y-1">
          <div className="min-w-0 max-w-4xl flex-1">
            <Problems problems={[{ ...problem, message: obstacleWords({ problem, candidates }) }]} />
          </div>
          {mend && (
            <button type="button" className="press py-0.5" disabled={busy} onClick={() => onMend(mend)}>
              {mendWords(mend)}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** What mends an obstacle, for a button. */
function mendWords(mend: Mend): string {
  const count = mend.kind === "fill" ? mend.medians.length + mend.frequent.length : mend.columns.length;
  const all = count === 1 ? "" : `all ${formatNumber(count)} `;
  if (mend.kind === "leave_out") return count === 1 ? "Exclude the column" : `Exclude ${all}columns`;
  if (mend.frequent.length === 0) return count === 1 ? "Fill with the median" : `Fill ${all}with medians`;
  return count === 1 ? "Fill with the more frequent" : `Fill ${all}missing values`;
}
