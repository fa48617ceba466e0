import { Fold } from "../basic/fold";
import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatCount, formatDuration, formatNumber } from "@/core/format/numbers";
import type { RunStepRow } from "@/store/runs";
import { Sheet } from "../basic/sheet";

/** Milliseconds that a step took, or has taken so far. */
const tookOf = ({ startedAt, finishedAt }: RunStepRow): number =>
  Math.max(0, (finishedAt?.getTime() ?? Date.now()) - startedAt.getTime());

/** What a training has done so far, step by step, with rows and time; folded away until somebody looks. */
export function RunSteps({ steps, live }: { readonly steps: readonly RunStepRow[]; readonly live: boolean }) {
  const whole = steps.reduce((sum, step) => sum + tookOf(step), 0);
  const time = figureColumn(steps, (step) => `${formatDuration(tookOf(step))}${step.finishedAt ? "" : " …"}`);
  return (
    <Fold
      className="mt-4"
      summary={`${formatCount(steps.length, "step")} ${live ? "so far" : `in ${formatDuration(whole)}`}`}
    >
      <Sheet className="mt-1 text-caption" aria-label="Steps of the training">
        <thead>
          <tr>
            <th>Step</th>
            <th className="number">Rows</th>
            <th className="number">Time</th>
          </tr>
        </thead>
        <tbody>
          {steps.map((step) => (
            <tr key={step.id} className={step.state === "running" ? "bg-paper" : ""}>
              <td>
                {step.name}
                {step.detail && <span className="block text-caption text-faded">{step.detail}</span>}
              </td>
              <td className="number">{step.rows === null ? "" : formatNumber(step.rows)}</td>
              <NumberCell figure={time(step)} />
            </tr>
          ))}
        </tbody>
      </Sheet>
    </Fold>
  );
}
