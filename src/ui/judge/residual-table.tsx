import { formatNumber } from "@/core/format/numbers";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { ResidualBin } from "@/runs/judging/segments";
import { PART_WORDS } from "./part-choice";
import { Sheet } from "../basic/sheet";

/** Errors by the values of a column that has no order. */
export function ResidualTable({
  column,
  bins,
  other,
  otherBins,
}: {
  readonly column: string;
  readonly bins: readonly ResidualBin[];
  readonly other: JudgedPart | undefined;
  readonly otherBins: readonly ResidualBin[];
}) {
  return (
    <Sheet className="mt-2">
      <thead>
        <tr>
          <th>{column}</th>
          <th className="number">Rows</th>
          <th className="number">Actual</th>
          <th className="number">Predicted</th>
          <th className="number">Median residual</th>
          {other && <th className="number">of {PART_WORDS[other]}</th>}
        </tr>
      </thead>
      <tbody>
        {bins.map((bin) => (
          <tr key={bin.label}>
            <td>{bin.label}</td>
            <td className="number">{formatNumber(bin.rows)}</td>
            <td className="number">{formatNumber(bin.actual)}</td>
            <td className="number">{formatNumber(bin.predicted)}</td>
            <td className="number">{formatNumber(bin.quartiles[1])}</td>
            {other && (
              <td className="number">
                {formatNumber(otherBins.find(({ label }) => label === bin.label)?.quartiles[1])}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
