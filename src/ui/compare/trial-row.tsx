import { IntervalFigures, NumberCell } from "../basic/number-cell";
import type { TrialColumns } from "./trial-columns";
import { formatNumber } from "@/core/format/numbers";
import { METRICS, type MetricName } from "@/core/evaluate/metrics";
import type { ModelSummary } from "@/store/models";
import { IntervalCell } from "../charts/interval-cell";
import type { PlacedAxis } from "../charts/scale";
import { ServiceButton } from "../deliver/service-button";
import { StarButton } from "./star-button";
import { TrialName } from "./trial-name";
import { TrialNote } from "./trial-note";
import { metricOf } from "./trial-order";

interface Props {
  readonly model: ModelSummary;
  readonly isInService: boolean;
  readonly file: number | undefined;
  /** The metric of the ranking. */
  readonly metric: MetricName;
  readonly columns: TrialColumns;
  readonly axis: PlacedAxis;
  /** The base rate's metric. */
  readonly base: number | undefined;
  readonly isPicked: boolean;
  readonly onPick: () => void;
}

/** A trial in the table of all trials. */
export function TrialRow({ model, isInService, file, metric, columns, axis, base, isPicked, onPick }: Props) {
  const value = metricOf(model, metric);
  const interval = model.intervals?.[metric];
  return (
    <tr className={isPicked ? "bg-paper" : ""}>
      <td>
        <input
          type="checkbox"
          aria-label={`Select version ${model.number}`}
          checked={isPicked}
          onChange={onPick}
        />
      </td>
      <td>
        <StarButton model={model.id} starred={model.starred} />
      </td>
      <td className="min-w-56">
        <TrialName model={model} isInService={isInService} file={file} />
      </td>
      <NumberCell figure={columns.first(model)} />
      <IntervalFigures ends={columns.ends(model)} />
      <td>
        <IntervalCell
          axis={axis}
          label={`${METRICS[metric].title} ${formatNumber(value)}`}
          value={value}
          interval={interval}
          reference={base}
        />
      </td>
      <NumberCell figure={columns.second(model)} />
      <td className="number">{formatNumber(model.data.trainingRows)}</td>
      <NumberCell figure={columns.fit(model)} />
      <td>
        <TrialNote model={model.id} note={model.note ?? ""} />
      </td>
      <td className="text-right">
        <ServiceButton model={model.id} version={model.number} inService={isInService} quiet />
      </td>
    </tr>
  );
}
