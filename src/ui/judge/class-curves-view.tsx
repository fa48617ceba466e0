"use client";
import { useQueryState } from "nuqs";
import type { ClassCurve } from "@/core/evaluate/class-curves";
import { curveConfusions } from "@/core/evaluate/score-curve";
import { PrecisionFigure, RocFigure } from "./curve-figures";
import { rocAndPrecision } from "./curve-points";
import { Select } from "../select/select";

/** One class against all others: its ROC and precision-recall curves. */
export function ClassCurvesView({
  curves,
  classes,
}: {
  readonly curves: readonly ClassCurve[];
  readonly classes: readonly string[];
}) {
  const [chosen, setChosen] = useQueryState("class", { defaultValue: classes[0] ?? "" });
  const code = Math.max(0, classes.indexOf(chosen));
  const found = curves[code];
  if (!found) return null;
  const { positives, negatives } = found.curve;
  const { roc, precision } = rocAndPrecision(curveConfusions(found.curve));
  const share = positives / Math.max(1, positives + negatives);
  return (
    <section aria-label="Curves by class">
      <div className="mb-2 flex items-center gap-3">
        <h2>One class against the rest</h2>
        <label className="flex items-center gap-2 text-caption text-faded">
          class
          <Select
            label="class"
            value={classes[code] ?? ""}
            options={classes}
            onChange={(name) => void setChosen(name)}
          />
        </label>
      </div>
      {positives === 0 ? (
        <p className="text-faded">No evaluated row has this class, so it has no curve.</p>
      ) : (
        <div className="flex flex-wrap gap-x-8 gap-y-4">
          <RocFigure label={`ROC curve of ${classes[code]}`} figure={found.auc} points={roc} />
          <PrecisionFigure
            label={`Precision-recall curve of ${classes[code]}`}
            figure={found.averagePrecision}
            points={precision}
            base={share}
          />
        </div>
      )}
    </section>
  );
}
