import { diffTexts, type DiffLine } from "@/core/pipeline/diff";

/** Lines of unchanged text kept around a change. */
const AROUND = 3;

const LINE_COLOURS: Readonly<Record<DiffLine["kind"], string>> = {
  added: "bg-moss/15",
  removed: "bg-madder/15 line-through decoration-madder/50",
  same: "",
};
const LINE_SIGNS: Readonly<Record<DiffLine["kind"], string>> = { added: "+ ", removed: "− ", same: "  " };

/** What changed between two texts, line by line; long unchanged parts are left out. */
export function DiffView({ before, after }: { readonly before: string; readonly after: string }) {
  const lines = diffTexts(before, after);
  const near = (index: number): boolean =>
    lines.slice(Math.max(0, index - AROUND), index + AROUND + 1).some((line) => line.kind !== "same");
  const shown: ({ line: DiffLine } | { skipped: number })[] = [];
  lines.forEach((line, index) => {
    const last = shown.at(-1);
    if (near(index)) shown.push({ line });
    else if (last && "skipped" in last) last.skipped += 1;
    else shown.push({ skipped: 1 });
  });
  if (!lines.some((line) => line.kind !== "same")) return <p className="px-2 py-3 text-faded">No changes.</p>;
  return (
    <pre className="py-1 text-caption leading-5">
      {shown.map((part, index) =>
        "skipped" in part ? (
          <div key={index} className="px-2 text-faded">
            … {part.skipped} unchanged lines
          </div>
        ) : (
          <div key={index} className={`whitespace-pre-wrap px-2 ${LINE_COLOURS[part.line.kind]}`}>
            <span className="mr-2 inline-block w-9 text-right text-faded no-underline">
              {part.line.after ?? part.line.before}
            </span>
            <span aria-hidden>{LINE_SIGNS[part.line.kind]}</span>
            {part.line.kind !== "same" && <span className="sr-only">{part.line.kind}: </span>}
            {part.line.text}
          </div>
        ),
      )}
    </pre>
  );
}
