import { formatNumber } from "@/core/format/numbers";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import type { TruthRow } from "@/store/truth";
import { STYLES } from "../charts/series";
import { summariseVersion, type TruthModel } from "./truth-days";
import { lookOf } from "./truth-plot";
import { Sheet } from "../basic/sheet";

const TONES = {
  "too few actuals": "text-faded",
  "as on holdout": "text-moss",
  "better than holdout": "text-moss",
  "worse than holdout": "text-madder",
} as const;

/** Each version's live metric over all its days, compared with its holdout. */
export function TruthTable({
  days,
  versions,
  inService,
  metric,
  delivery,
}: {
  readonly days: readonly TruthRow[];
  readonly versions: readonly TruthModel[];
  readonly inService: number | null;
  readonly metric: MetricName;
  readonly delivery: string;
}) {
  return (
    <Sheet className="mt-2" data-testid="truth">
      <thead>
        <tr>
          <th>Version</th>
          <th className="number">Predictions</th>
          <th className="number">Actuals so far</th>
          <th className="number">{METRICS[metric].title}</th>
          <th className="number">Holdout</th>
          <th>Result</th>
        </tr>
      </thead>
      <tbody>
        {versions.map((version) => {
          const own = days.filter(({ modelId }) => modelId === version.id);
          const { predicted, answered, found, holdout, bounds, verdict } = summariseVersion(
            own,
            version,
            delivery,
            metric,
          );
          return (
            <tr key={version.id}>
              <td>
                <span
                  className="mr-2 inline-block h-2.5 w-2.5"
                  style={{ background: STYLES[lookOf(versions, version.id)].stroke }}
                />
                version {version.number}
                {version.id === inService && <span className="text-moss"> in service</span>}
              </td>
              <td className="number">{formatNumber(predicted)}</td>
              <td className="number">{formatNumber(answered)}</td>
              <td className="number">{formatNumber(found)}</td>
              <td className="number">
                {formatNumber(holdout)}
                {bounds && (
                  <span className="text-faded">
                    {" "}
                    ({formatNumber(bounds[0])} to {formatNumber(bounds[1])})
                  </span>
                )}
              </td>
              <td className={`text-caption ${TONES[verdict]}`}>{verdict}</td>
            </tr>
          );
        })}
      </tbody>
    </Sheet>
  );
}
