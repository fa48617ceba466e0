import type { PlotLayout } from "./layout";
import { readAt, readablePlaces } from "./reading";
import type { Series } from "./series";

/** Rows that are listed; a longer series is thinned evenly. */
const MOST_ROWS = 200;

/** The values of a chart as a table. */
export function PlotTable({
  series,
  layout,
}: {
  readonly series: readonly Series[];
  readonly layout: PlotLayout;
}) {
  const places = readablePlaces(series);
  const stride = Math.max(1, Math.ceil(places.length / MOST_ROWS));
  const shown = places.filter((_, index) => index % stride === 0);
  const named = series.filter(({ silent }) => !silent);
  return (
    <div
      className="mt-2 max-h-72 overflow-y-auto"
      role="region"
      tabIndex={0}
      aria-label="Values of the chart"
    >
      <table className="sheet">
        <thead>
          <tr>
            <th className="number">{layout.x.title}</th>
            {named.map(({ name }) => (
              <th key={name} className="number">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((x) => (
            <tr key={x}>
              <td className="number">{layout.x.describe(x)}</td>
              {readAt(series, x).values.map(({ series: { name }, point }) => (
                <td key={name} className="number">
                  {point.x === x ? layout.y.describe(point.y) : "–"}
                  {point.x === x && point.note && <span className="font-sans text-faded"> {point.note}</span>}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
