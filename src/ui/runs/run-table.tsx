import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatDuration, formatNumber } from "@/core/format/numbers";
import type { RunRow } from "@/store/runs";
import { moment } from "../basic/format";
import { StateWord } from "../basic/state-word";
import { PageLink } from "../basic/page-link";
import { CAUSE_WORDS } from "./cause-words";
import { Sheet } from "../basic/sheet";

const KIND: Readonly<Record<RunRow["kind"], string>> = { train: "training", score: "scoring" };

/** How long a run took; a dash for one that goes on or has not begun. */
const tookText = ({ startedAt, finishedAt }: RunRow): string =>
  startedAt && finishedAt ? formatDuration(finishedAt.getTime() - startedAt.getTime()) : "–";

/** Runs, newest first, with what came out or what went wrong. */
export function RunTable({
  runs,
  names,
}: {
  readonly runs: readonly RunRow[];
  readonly names: ReadonlyMap<number, string>;
}) {
  const took = figureColumn(runs, tookText);
  return (
    <Sheet>
      <thead>
        <tr>
          <th>State</th>
          <th>Run</th>
          <th>Started by</th>
          <th>Run time</th>
          <th className="number">Rows</th>
          <th className="number">Took</th>
          <th>Result</th>
        </tr>
      </thead>
      <tbody>
        {runs.map((run) => (
          <tr key={run.id}>
            <td>
              <StateWord state={run.state} />
            </td>
            <td className="min-w-52">
              <PageLink className="font-medium" href={`/runs/${run.id}`}>
                {KIND[run.kind]} {names.get(run.pipelineId)}
              </PageLink>
            </td>
            <td className="text-faded">{CAUSE_WORDS[run.cause]}</td>
            <td className="whitespace-nowrap">{moment(run.runTime)}</td>
            <td className="number">{formatNumber(run.rows)}</td>
            <NumberCell figure={took(run)} />
            <td className={run.state === "failed" ? "text-madder" : ""}>
              {run.problems[0]?.message ?? run.outcome}
            </td>
          </tr>
        ))}
      </tbody>
    </Sheet>
  );
}
