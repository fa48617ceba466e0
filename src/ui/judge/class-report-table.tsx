import { classReport, type ClassRow } from "@/core/evaluate/class-report";
import { formatNumber } from "@/core/format/numbers";
import { Sheet } from "../basic/sheet";

/** Precision, recall, F1 and support of every class, with their means. */
export function ClassReportTable({
  matrix,
  classes,
}: {
  /** How often each class was taken for each: matrix[answer][prediction]. */
  readonly matrix: readonly (readonly number[])[];
  readonly classes: readonly string[];
}) {
  const report = classReport(matrix);
  return (
    <Sheet data-testid="class-report" aria-label="Classification report">
      <thead>
        <tr>
          <th>Class</th>
          <th className="number">Precision</th>
          <th className="number">Recall</th>
          <th className="number">F1</th>
          <th className="number">Rows</th>
        </tr>
      </thead>
      <tbody>
        {report.classes.map((row, code) => (
          <Line key={classes[code]} name={classes[code] ?? ""} row={row} />
        ))}
        <Line name="mean over classes" row={report.macro} faded />
        <Line name="mean weighted by rows" row={report.weighted} faded />
      </tbody>
    </Sheet>
  );
}

function Line({
  name,
  row,
  faded = false,
}: {
  readonly name: string;
  readonly row: ClassRow;
  readonly faded?: boolean;
}) {
  return (
    <tr className={faded ? "text-faded" : ""}>
      <td className="max-w-44 truncate" title={name}>
        {name}
      </td>
      {([row.precision, row.recall, row.f1, row.support] as const).map((value, index) => (
        <td key={index} className="number">
          {formatNumber(value)}
        </td>
      ))}
    </tr>
  );
}
