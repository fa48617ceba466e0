import { figureColumn, type AlignedFigure } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { classReport, type ClassRow } from "@/core/evaluate/class-report";
import { formatNumber } from "@/core/format/numbers";
import { Sheet } from "../basic/sheet";

const COLUMNS = ["precision", "recall", "f1", "support"] as const;

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
  const rows = [...report.classes, report.macro, report.weighted];
  const columns = COLUMNS.map((name) => figureColumn(rows, (row) => formatNumber(row[name])));
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
          <Line key={classes[code]} name={classes[code] ?? ""} row={row} columns={columns} />
        ))}
        <Line name="mean over classes" row={report.macro} columns={columns} faded />
        <Line name="mean weighted by rows" row={report.weighted} columns={columns} faded />
      </tbody>
    </Sheet>
  );
}

function Line({
  name,
  row,
  columns,
  faded = false,
}: {
  readonly name: string;
  readonly row: ClassRow;
  readonly columns: readonly ((row: ClassRow) => AlignedFigure)[];
  readonly faded?: boolean;
}) {
  return (
    <tr className={faded ? "text-faded" : ""}>
      <td className="max-w-44 truncate" title={name}>
        {name}
      </td>
      {columns.map((column, place) => (
        <NumberCell key={COLUMNS[place]} figure={column(row)} />
      ))}
    </tr>
  );
}
