"use client";
import type { Task } from "@/core/learn/task";
import type { Comparison } from "@/runs/judging/compare";
import { LearnedTable } from "../basic/learned-table";
import { PageLink } from "../basic/page-link";
import { useRead } from "../queries/use-read";
import { BothCurves, BothErrors } from "./both-curves";
import { BothImportances } from "./both-importances";
import { DifferenceTable } from "./difference-table";
import { DisagreementTable } from "./disagreement-table";
import { SettingsTable } from "./settings-table";
import { sideTitle, type Side } from "./side";

interface Props {
  readonly pipeline: string;
  readonly task: Task;
  readonly first: Side;
  readonly second: Side;
}

/** Two trials side by side: settings, metrics with the interval of their difference, curves, importances, and rows on which they disagree. */
export function SideBySide({ pipeline, task, first, second }: Props) {
  const { value, failure, asking } = useRead<Comparison>(`/api/models/compare?a=${first.id}&b=${second.id}`);
  const sides = { first, second };
  return (
    <section aria-label="Side by side" className="mt-8 space-y-5" data-testid="side-by-side">
      <h2>
        {sideTitle(first)} <span className="font-normal text-faded">against</span> {sideTitle(second)}
      </h2>
      {first.file !== second.file && (
        <p className="text-caption">
          <PageLink
            href={`/pipelines/${encodeURIComponent(pipeline)}/history?from=${first.file}&to=${second.file}`}
          >
            Changes in the file, from version {first.file} to {second.file}
          </PageLink>
        </p>
      )}
      <SettingsTable {...sides} />
      {failure && (
        <p role="alert" className="text-madder">
          {failure}
        </p>
      )}
      {asking && (
        <p className="text-faded" role="status">
          comparing rows …
        </p>
      )}
      {value && <DifferenceTable kind={task.kind} found={value} {...sides} />}
      {value?.noIntervals && <p className="text-caption text-faded">{value.noIntervals}</p>}
      {first.curve && second.curve && (
        <BothCurves first={{ ...first, curve: first.curve }} second={{ ...second, curve: second.curve }} />
      )}
      {value?.errors && <BothErrors errors={value.errors} {...sides} />}
      {(first.importance.length > 0 || second.importance.length > 0) && <BothImportances {...sides} />}
      <section>
        <h3 className="font-semibold">Learned values</h3>
        <LearnedTable
          sides={[first, second].map((side) => ({ title: `version ${side.number}`, parts: side.learned }))}
        />
      </section>
      {value && value.disagreements.length > 0 && (
        <DisagreementTable task={task} rows={value.disagreements} {...sides} />
      )}
    </section>
  );
}
