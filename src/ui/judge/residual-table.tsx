import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatNumber } from "@/core/format/numbers";
import type { JudgedPart } from "@/core/evaluate/judged-part";
import type { ResidualBin } from "@/core/questions/judged/residuals";
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
  const actual = figureColumn(bins, (bin) => formatNumber(bin.actual));
  const predicted = figureColumn(bins, (bin) => formatNumber(bin.predicted));
  const median = figureColumn(bins, (bin) => formatNumber(bin.quartiles[1]));
  const otherMedian = figureColumn(bins, (bin) =>
    formatNumber(otherBins.find(({ label }) => label === bin.label)?.quartiles[1]),
  );
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
            <NumberCell figure={actual(bin)} />
            <NumberCell figure={predicted(bin)} />
            <NumberCell figure={median(bin)} />
            {other && <NumberCell figure={otherMedian(bin)} />}
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
