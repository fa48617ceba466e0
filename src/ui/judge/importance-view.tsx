import { Fold } from "../basic/fold";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatCount, formatNumber, formatPart } from "@/core/format/numbers";
import type { Judgement } from "@/core/evaluate/judgement";
import { METRICS } from "@/core/evaluate/metrics";
import { measureAllFeatures } from "@/server/training-actions";
import { ActButton } from "../basic/act";
import { BarCell } from "../charts/bar-cell";
import { cellAxis, CellAxisHead } from "../charts/cell-axis";
import { Sheet } from "../basic/sheet";

/** Features that are shown at once; the others can be unfolded. */
const SHOWN = 20;

interface Props {
  /** The version's id. */
  readonly version: number;
  readonly judgement: Judgement;
  readonly gains: readonly { readonly column: string; readonly gain: number }[] | undefined;
}

/** How much each feature matters: by shuffling it among holdout rows, and for trees by the loss that its splits took away. */
export function ImportanceView({ version, judgement, gains }: Props) {
  const { importance, importanceOf } = judgement;
  const all = importanceOf.columns ?? importance.length;
  const others = importance.slice(SHOWN);
  const table = { version, judgement, gains };
  return (
    <section aria-label="Importance">
      <h2>Feature importance</h2>
      <p className="mb-1 text-caption text-faded">
        How much worse the {METRICS[importanceOf.metric].title} gets when a feature is shuffled among{" "}
        {formatNumber(importanceOf.rows)} {importanceOf.training ? "training" : "holdout"} rows; three rounds,
        with their range as a thin line.
        {all > importance.length &&
          ` Of ${formatNumber(all)} features in the model, these are the ${formatNumber(importance.length)} that change predictions most.`}
      </p>
      {all > importance.length && (
        <ActButton act={measureAllFeatures.bind(null, version)} busyLabel="Measuring, up to two minutes …">
          {`Measure all ${formatNumber(all)}`}
        </ActButton>
      )}
      <ImportanceTable {...table} shown={importance.slice(0, SHOWN)} />
      {others.length > 0 && (
        <Fold className="mt-1" summary={formatCount(others.length, "more feature")}>
          <ImportanceTable {...table} shown={others} />
        </Fold>
      )}
    </section>
  );
}

function ImportanceTable({
  judgement: { importance },
  gains,
  shown,
}: Props & { readonly shown: Judgement["importance"] }) {
  const axis = cellAxis({ title: "loss of metric" }, [
    0,
    ...importance.flatMap(({ least, most }) => [least, most]),
  ]);
  const worse = figureColumn(shown, (feature) => formatNumber(feature.worse));
  const allGain = gains?.reduce((sum, { gain }) => sum + gain, 0) ?? 0;
  const share = figureColumn(shown, ({ column }) =>
    formatPart(gains?.find((gain) => gain.column === column)?.gain ?? 0, allGain),
  );
  return (
    <Sheet data-testid="importance">
      <thead>
        <tr>
          <th>Feature</th>
          <th className="number">Loss of metric</th>
          <th>
            <CellAxisHead axis={axis} />
          </th>
          {gains && <th className="number">Share of split gain</th>}
        </tr>
      </thead>
      <tbody>
        {shown.map((feature) => (
          <tr key={feature.column}>
            <td className="break-words">{feature.column}</td>
            <NumberCell figure={worse(feature)} />
            <td>
              <BarCell axis={axis} value={feature.worse} range={[feature.least, feature.most]} />
            </td>
            {gains && <NumberCell figure={share(feature)} />}
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
