import { formatNumber } from "@/core/format/numbers";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import type { TruthRow } from "@/store/truth";
import { Plot } from "../charts/plot";
import { LOOKS, type Band, type Look, type Series } from "../charts/series";
import { dayPoints, daysDomain, holdoutOf, smoothPoints, type TruthModel } from "./truth-days";

/** Days with fewer actuals may lie far out; the axis is for the others. */
const FEW_ACTUALS = 20;

interface Props {
  readonly days: readonly TruthRow[];
  readonly versions: readonly TruthModel[];
  readonly metric: MetricName;
  readonly delivery: string;
}

/** The look of a version: those beyond the fourth share the last. */
export const lookOf = (versions: readonly TruthModel[], id: number): Look =>
  LOOKS[
    Math.min(
      versions.findIndex((version) => version.id === id),
      LOOKS.length - 1,
    )
  ]!;

/** The metric by day and version, with the holdout's interval of the first version. */
export function TruthPlot({ days, versions, metric, delivery }: Props) {
  const own = versions.map((version) => ({
    version,
    days: days.filter(({ modelId }) => modelId === version.id),
  }));
  const series = own.flatMap(({ version, days: mine }): Series[] => {
    const look = lookOf(versions, version.id);
    return [
      {
        name: `version ${version.number}, by day`,
        look,
        mark: "dots",
        points: dayPoints(mine, metric),
      },
      {
        name: `version ${version.number}, mean of 7 days`,
        look,
        points: smoothPoints(mine, metric),
      },
    ];
  });
  const points = series.flatMap((one) => one.points);
  if (points.length === 0) return <p className="mt-2 text-faded">No actuals have arrived yet.</p>;
  const { value: holdout, bounds } = holdoutOf(versions[0]!, delivery, metric);
  const [from, to] = daysDomain(days);
  const often = days.filter(({ answered }) => answered >= FEW_ACTUALS);
  const shown = [
    ...dayPoints(often, metric).map(({ y }) => y),
    ...series.filter(({ mark }) => mark !== "dots").flatMap((one) => one.points.map(({ y }) => y)),
    ...(bounds ?? []),
  ];
  const bands: Band[] = bounds
    ? [
        {
          name: `holdout of version ${versions[0]!.number}, 95 % interval`,
          look: "first",
          points: [from, to].map((x) => ({ x, low: bounds[0], high: bounds[1] })),
        },
      ]
    : [];
  const reference: Series[] =
    typeof holdout === "number"
      ? [
          {
            name: "holdout",
            look: "reference",
            points: [from, to].map((x) => ({ x, y: holdout })),
            silent: true,
          },
        ]
      : [];
  const last = points.at(-1)!;
  return (
    <Plot
      title={`${METRICS[metric].title} by day of prediction`}
      label={`${METRICS[metric].title} of past predictions over ${days.length} days, last ${formatNumber(last.y)}; holdout ${formatNumber(holdout)}`}
      x={{ title: "day of prediction", kind: "time", domain: [from, to] }}
      y={{ title: METRICS[metric].title, domain: [Math.min(...shown), Math.max(...shown)] }}
      series={[...series, ...reference]}
      bands={bands}
      width={1400}
      height={250}
    />
  );
}
