import { formatDuration, formatNumber } from "@/core/format/numbers";
import type { RunStepRow } from "@/store/runs";
import { Sheet } from "../basic/sheet";

/** The last steps shown while a run goes on; the others are in the run. */
const SHOWN = 12;

/** What a training has done so far, step by step, with rows and time. */
export function RunSteps({ steps, live }: { readonly steps: readonly RunStepRow[]; readonly live: boolean }) {
  const shown = steps.slice(-SHOWN);
  return (
    <Sheet className="w-auto min-w-[30rem] self-start text-sm" aria-label="Steps of the training">
      <thead>
        <tr>
          <th>{steps.length > SHOWN ? `The last of ${steps.length} steps` : "Step"}</th>
          <th className="number">Rows</th>
          <th className="number">Time</th>
        </tr>
      </thead>
      <tbody>
        {shown.map((each) => (
          <tr key={each.id} className={each.state === "running" ? "bg-paper" : ""}>
            <td>
              {each.name}
              {each.detail && (
                <span className="block max-w-[34rem] truncate text-xs text-faded" title={each.detail}>
                  {each.detail}
                </span>
              )}
            </td>
            <td className="number">{each.rows === null ? "" : formatNumber(each.rows)}</td>
            <td className="number">
              {each.finishedAt
                ? formatDuration(each.finishedAt.getTime() - each.startedAt.getTime())
                : live
                  ? `${formatDuration(Math.max(0, Date.now() - each.startedAt.getTime()))} …`
                  : "–"}
            </td>
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
