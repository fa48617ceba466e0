import type { Preparation } from "@/core/pipeline/proposal/propose-preparation";
import { someNames } from "@/core/format/some-names";

/** What is proposed to be done to columns, each part of which can be left off. */
export function PreparationList({
  preparations,
  without,
  onChange,
}: {
  readonly preparations: readonly Preparation[];
  readonly without: readonly string[];
  readonly onChange: (without: readonly string[]) => void;
}) {
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)] items-start gap-4">
      <div className="pt-1">
        <span aria-hidden>Preparation</span>
        <span className="block text-caption leading-snug text-faded">proposed from the column values</span>
      </div>
      <ul role="group" aria-label="Preparation" className="max-h-56 max-w-xl space-y-1 overflow-auto pt-1">
        {preparations.map(({ id, says, columns }) => (
          <li key={id}>
            <label className="flex items-start gap-1.5">
              <input
                type="checkbox"
                className="mt-1.5 shrink-0 accent-(--woad)"
                checked={!without.includes(id)}
                onChange={(event) =>
                  onChange(event.target.checked ? without.filter((other) => other !== id) : [...without, id])
                }
              />
              <span className="min-w-0 break-words">
                <span className="font-medium">{someNames(columns)}</span>{" "}
                <span className="text-faded">{says}</span>
              </span>
            </label>
          </li>
        ))}
      </ul>
    </div>
  );
}
