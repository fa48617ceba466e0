import { formatNumber, formatPart } from "@/core/format/numbers";

const percent = (part: number, whole: number): string => (whole === 0 ? "–" : `${formatPart(part, whole)}`);

/** How often each class was taken for each, with precision and recall of every class. Shading follows the share of the row; the diagonal is framed. */
export function ClassMatrix({
  matrix,
  classes,
}: {
  readonly matrix: readonly (readonly number[])[];
  readonly classes: readonly string[];
}) {
  const said = classes.map((_, code) => matrix.reduce((sum, row) => sum + row[code]!, 0));
  return (
    <div className="overflow-x-auto">
      <table className="border-collapse text-caption" data-testid="matrix" aria-label="Confusion matrix">
        <thead>
          <tr>
            <th className="pr-3 text-left font-medium text-faded">actual ↓ · predicted →</th>
            {classes.map((name) => (
              <th key={name} className="max-w-28 truncate px-2 pb-1 text-right font-medium" title={name}>
                {name}
              </th>
            ))}
            <th className="px-3 pb-1 text-right font-medium text-faded">recall</th>
          </tr>
        </thead>
        <tbody>
          {matrix.map((row, code) => {
            const total = row.reduce((sum, value) => sum + value, 0);
            return (
              <tr key={classes[code]}>
                <th className="max-w-44 truncate pr-3 text-left font-medium" title={classes[code]}>
                  {classes[code]}
                </th>
                {row.map((value, other) => (
                  <td
                    key={other}
                    className={`figure px-2 py-1 text-right ${other === code ? "border-2 border-moss" : "border border-weft"}`}
                    style={{
                      background:
                        total > 0
                          ? `color-mix(in srgb, var(--${other === code ? "moss" : "madder"}) ${Math.round((45 * value) / total)}%, transparent)`
                          : undefined,
                    }}
                  >
                    {formatNumber(value)}
                  </td>
                ))}
                <td className="figure px-3 text-right">{percent(row[code]!, total)}</td>
              </tr>
            );
          })}
          <tr>
            <th className="pr-3 pt-1 text-left font-medium text-faded">precision</th>
            {classes.map((name, code) => (
              <td key={name} className="figure px-2 pt-1 text-right">
                {percent(matrix[code]![code]!, said[code]!)}
              </td>
            ))}
            <td />
          </tr>
        </tbody>
      </table>
    </div>
  );
}
