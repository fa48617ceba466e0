import { writeKey } from "@/core/pipeline/key-text";
import { formatNumber } from "@/core/format/numbers";
import { className, type Task } from "@/core/learn/task";
import type { Comparison } from "@/runs/judging/compare";
import type { Side } from "./side";
import { Sheet } from "../basic/sheet";

/** A prediction in one word; of several classes the most probable with its probability. */
function outputText(output: readonly number[], task: Task): string {
  if (task.kind !== "classes") return formatNumber(output[0]);
  const best = output.reduce((most, value, index) => (value > output[most]! ? index : most), 0);
  return `${className(task, best)} ${formatNumber(output[best]!)}`;
}

/** Rows that two trials predict most differently. */
export function DisagreementTable({
  task,
  rows,
  first,
  second,
}: {
  readonly task: Task;
  readonly rows: Comparison["disagreements"];
  readonly first: Side;
  readonly second: Side;
}) {
  return (
    <section>
      <h3 className="font-semibold">Rows with the largest disagreement</h3>
      <Sheet className="max-w-4xl">
        <thead>
          <tr>
            <th>Row</th>
            <th>Actual</th>
            <th>Predicted by version {first.number}</th>
            <th>Predicted by version {second.number}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={writeKey(row.key)}>
              <td className="figure">{row.key.join(", ")}</td>
              <td>{task.kind === "number" ? formatNumber(row.answer) : className(task, row.answer)}</td>
              <td className="figure">{outputText(row.first, task)}</td>
              <td className="figure">{outputText(row.second, task)}</td>
            </tr>
          ))}
        </tbody>
      </Sheet>
    </section>
  );
}
