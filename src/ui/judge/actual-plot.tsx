import { quantileSorted } from "d3-array";
import { Plot } from "../charts/plot";
import type { AxisSpec } from "../charts/scale";
import { pointsOf } from "../charts/series";

/** A few values far out would press all others into a corner. */
const SHOWN = 0.995;

/** Predicted against actual values; values beyond the edge lie on it. */
export function ActualPlot({ pairs }: { readonly pairs: readonly (readonly [number, number])[] }) {
  const sorted = pairs.flat().sort((left, right) => left - right);
  const domain: readonly [number, number] = [sorted[0] ?? 0, quantileSorted(sorted, SHOWN) ?? 1];
  const axis = (title: string): AxisSpec => ({ title, domain });
  return (
    <Plot
      title="Predicted against actual values"
      x={axis("predicted")}
      y={axis("actual")}
      width={360}
      height={300}
      series={[
        { name: "rows", look: "first", mark: "dots", points: pointsOf(pairs) },
        {
          name: "equal",
          look: "reference",
          points: pointsOf([
            [domain[0], domain[0]],
            [domain[1], domain[1]],
          ]),
          silent: true,
        },
      ]}
    />
  );
}
