import { shortenDecimals } from "@/core/format/numbers";
import type { JudgedRow } from "@/runs/judging/judged-rows";

/** A value of a judged row: as the source has it, and below it what the steps made of it, where that is something else. */
export function RowValue({ row, column }: { readonly row: JudgedRow; readonly column: string }) {
  const prepared = row.values[column];
  const isKept = column in row.originals;
  const original = isKept ? row.originals[column] : prepared;
  const isChanged = isKept && prepared !== undefined && prepared !== original;
  return (
    <td
      className="figure max-w-40 truncate align-top"
      title={isChanged ? `${original ?? "missing"}, prepared as ${prepared ?? "missing"}` : (original ?? "")}
    >
      {shortenDecimals(original) ?? <span className="text-faded">–</span>}
      {isChanged && (
        <span className="block text-caption text-faded">as {shortenDecimals(prepared) ?? "missing"}</span>
      )}
    </td>
  );
}
