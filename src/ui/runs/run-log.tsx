import type { RunLogRow } from "@/store/runs";

const TONES: Readonly<Record<string, string>> = { error: "text-madder", warning: "text-weld" };

/** What a run said, by the clock of the computer. */
export function RunLog({ lines }: { readonly lines: readonly RunLogRow[] }) {
  if (lines.length === 0) return null;
  return (
    <section aria-label="Log" className="mt-6">
      <h2>
        Log <span className="text-caption font-normal text-faded">by the computer’s clock</span>
      </h2>
      <ol className="mt-1 text-caption">
        {lines.map((line) => (
          <li key={line.id} className="grid grid-cols-[150px_64px_1fr] gap-2 py-0.5">
            <span className="figure text-faded">{line.at.toISOString().slice(11, 23)} UTC</span>
            <span className={TONES[line.level] ?? "text-faded"}>{line.level}</span>
            <span className="break-words">{line.message}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}
