import { formatNumber, shortenDecimals } from "@/core/format/numbers";
import type { RowReasons } from "@/runs/judging/judged-rows";
import { BarCell } from "../charts/bar-cell";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { useFirst } from "../basic/use-first";
import { Sheet } from "../basic/sheet";

/** Reasons that have a line of their own at first, the others being summed; and columns of neighbours. */
const [FEW_REASONS, FEW_COLUMNS] = [10, 8];

/** Why a row is predicted as it is: parts by column that add up, largest first, and the nearest training rows where there are any. */
export function ReasonList({ found }: { readonly found: RowReasons }) {
  const parts = [...found.explained.parts]
    .filter((part) => part.value !== 0)
    .sort((left, right) => Math.abs(right.value) - Math.abs(left.value));
  const { shown, showAll } = useFirst(parts, FEW_REASONS, "reasons");
  const rest = parts.slice(shown.length).reduce((sum, part) => sum + part.value, 0);
  const axis = cellAxis({ title: "contribution" }, [0, ...shown.map(({ value }) => value)]);
  return (
    <>
      <p className="text-caption text-faded">
        Contributions to {found.explained.scale}
        {found.of ? ` for “${found.of}”` : ""}
        {found.explained.exact ? "" : ", computed by setting the row’s values one after another"}. On average{" "}
        {formatNumber(found.explained.base)}; here {formatNumber(found.predictor)}.
      </p>
      <table className="mt-1 text-caption">
        <thead>
          <tr>
            <th className="text-left font-normal text-faded">column = value</th>
            <th>
              <CellAxisHead axis={axis} />
            </th>
            <th className="text-right font-normal text-faded">contribution</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((reason) => (
            <tr key={reason.column}>
              <td className="max-w-80 truncate pr-3" title={reason.column}>
                {reason.column}{" "}
                <span className="text-faded">
                  = {shortenDecimals(String(found.values[reason.column] ?? "missing")).slice(0, 30)}
                </span>
              </td>
              <td>
                <BarCell axis={axis} value={reason.value} />
              </td>
              <td className="figure text-right">
                {reason.value > 0 ? "+" : ""}
                {formatNumber(reason.value)}
              </td>
            </tr>
          ))}
          {parts.length > shown.length && (
            <tr>
              <td className="pr-3 text-faded">{formatNumber(parts.length - shown.length)} others</td>
              <td />
              <td className="figure text-right">{formatNumber(rest)}</td>
            </tr>
          )}
        </tbody>
      </table>
      {showAll}
      {found.neighbours && <Neighbours found={found.neighbours} />}
    </>
  );
}

function Neighbours({ found }: { readonly found: NonNullable<RowReasons["neighbours"]> }) {
  const { shown: columns, showAll } = useFirst(Object.keys(found[0]?.values ?? {}), FEW_COLUMNS, "columns");
  return (
    <div className="mt-2 overflow-x-auto">
      <h4 className="font-medium">Nearest training rows</h4>
      <Sheet data-testid="neighbours">
        <thead>
          <tr>
            <th className="number">Distance</th>
            <th>Actual</th>
            {columns.map((name) => (
              <th key={name}>{name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {found.map((part, index) => (
            <tr key={index}>
              <td className="number">{formatNumber(part.distance)}</td>
              <td>{part.answer}</td>
              {columns.map((name) => {
                const value = part.values[name];
                return (
                  <td key={name} className="figure">
                    {typeof value === "number" ? formatNumber(value) : (value ?? "–")}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </Sheet>
      {showAll}
    </div>
  );
}
