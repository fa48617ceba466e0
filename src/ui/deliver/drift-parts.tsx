import { formatShare } from "@/core/format/numbers";
import type { Drift } from "@/core/evaluate/drift";
import { BarCell } from "../charts/bar-cell";
import { cellAxis } from "../charts/cell-axis";

/** Shares of each part, in training and in the newest run. */
export function DriftParts({ drift }: { readonly drift: Drift }) {
  const axis = cellAxis({ title: "share of rows", format: "share" }, [
    0,
    ...drift.parts.flatMap((part) => [part.before, part.now]),
  ]);
  return (
    <table className="text-caption" data-testid="drift-parts">
      <thead>
        <tr className="text-left text-faded">
          <th className="pr-4 font-normal">{drift.column}</th>
          <th className="font-normal">in training</th>
          <th className="font-normal">newest run</th>
        </tr>
      </thead>
      <tbody>
        {drift.parts.map((part) => (
          <tr key={part.name}>
            <td className="max-w-56 truncate pr-4" title={part.name}>
              {part.name}
            </td>
            {[part.before, part.now].map((share, index) => (
              <td key={index}>
                <span className="mr-2 inline-block align-middle">
                  <BarCell axis={axis} value={share} />
                </span>
                <span className="figure text-faded">{formatShare(share)}</span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
