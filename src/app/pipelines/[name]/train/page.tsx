import { someOf } from "@/core/format/some-names";
import type { CheckedPlan } from "@/core/plan/plan";
import { searchableIn } from "@/core/plan/check-candidates";
import { writeTableName } from "@/core/pipeline/table-name";
import { isNumber } from "@/core/value-type";
import { appContext } from "@/server/context";
import { pageOf } from "@/server/stages";
import { offeredTables } from "@/server/tables";
import { listRuns, runRecord } from "@/store/runs";
import { trialsOf } from "@/store/searches";

import { Problems } from "@/ui/basic/problems";
import { LiveRun } from "@/ui/runs/live-run";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";

import { CandidateTable } from "@/ui/train/candidate-table";
import { isLive, LatestTraining } from "@/ui/train/latest-training";
import { UnsavedDraft } from "@/ui/train/unsaved-draft";
import { MendPanel } from "@/ui/train/mend-panel";
import { RolesPanel } from "@/ui/train/roles/roles-panel";
import { DivisionPanel } from "@/ui/train/division/division-panel";

/** Columns that are named in a sentence. */
const FEW_NAMES = 6;
/** Training runs that are listed, the newest. */
const FEW_RUNS = 12;

/** Steps with settings that a search can try. */
const searchableSteps = ({ main, file }: CheckedPlan) => {
  const settingsOf = searchableIn(file.candidates[0]!.algorithm, main);
  return main.steps
    .map(({ step }) => ({ name: step.name, settings: settingsOf(step.name) }))
    .filter(({ settings }) => settings.length > 0);
};

/** Columns of the final rows. */
const finalColumns = ({ main }: CheckedPlan) =>
  [...main.output].map(([name, { type, bundle }]) => ({ name, type, encoded: bundle === true }));

/** Columns that are no features, those with the same reason together. */
function leftOutWords(roles: CheckedPlan["roles"]): string {
  const reasons = new Map<string, string[]>();
  for (const [name, { role, because = "" }] of roles)
    if (role === "excluded") reasons.set(because, [...(reasons.get(because) ?? []), `“${name}”`]);
  return [...reasons]
    .map(
      ([because, names]) =>
        `${someOf(names, FEW_NAMES)} ${names.length === 1 ? "is" : "are"} excluded: ${because}.`,
    )
    .join(" ");
}

export default async function TrainPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked, versions, version, draft } = await pageOf((await params).name);
  const { store, warehouse } = await appContext();
  const tables = checked.ok ? (await offeredTables(warehouse)).tables : [];
  const runs = await listRuns(store.db, { limit: FEW_RUNS, pipelineId: pipeline.id, kind: "train" });
  const newest = runs.find((each) => each.state === "running") ?? runs[0];
  const [record, trials] = newest
    ? await Promise.all([runRecord(store.db, newest.id), trialsOf(store.db, newest.id)])
    : [undefined, []];
  const file = checked.ok ? checked.value.file : undefined;
  return (
    <div className="page py-6">
      {newest && isLive(newest) && <LiveRun run={newest.id} />}
      {draft && (
        <UnsavedDraft
          pipeline={pipeline.name}
          version={version.number}
          errors={draft.survey.problems.filter(({ severity }) => severity === "error").length}
        />
      )}
      {!checked.ok && (
        <div className="mb-6">
          <h2 className="mb-2">Fix the file before training.</h2>
          <Problems problems={checked.problems} />
        </div>
      )}
      {newest && <LatestTraining run={newest} record={record} trials={trials} file={file} />}
      {checked.ok && file && (
        <>
          <div className="mb-5">
            <MendPanel pipeline={pipeline.name} text={version.text} />
          </div>
          <CandidateTable pipeline={pipeline.name} file={file} steps={searchableSteps(checked.value)} />
          <section className="mt-6" aria-label="Roles">
            <h2 className="mb-2">Column roles</h2>
            <RolesPanel
              key={versions[0]?.number}
              pipeline={pipeline.name}
              file={file}
              columns={finalColumns(checked.value)}
            />
          </section>
          <section className="mt-6" aria-label="Validation">
            <h2 className="mb-2">Validation</h2>
            <DivisionPanel
              key={versions[0]?.number}
              pipeline={pipeline.name}
              file={file}
              tables={tables.map(writeTableName)}
              numberGroups={
                file.roles.group !== undefined &&
                isNumber(checked.value.main.output.get(file.roles.group)?.type ?? "other")
              }
            />
            <p className="mt-2 text-sm text-faded">
              {checked.value.features.length} columns are features. The same rows are held out every time.
              Steps learn their values from the training rows only; within cross-validation, again for each
              fold. {leftOutWords(checked.value.roles)}
            </p>
            <div className="mt-3">
              <Problems problems={checked.value.warnings} />
            </div>
          </section>
        </>
      )}
      {runs.length > 0 && (
        <section className="mt-8" aria-label="Training runs">
          <h2>Training runs</h2>
          <RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} />
          <EarlierRuns shown={runs.length} few={FEW_RUNS} />
        </section>
      )}
    </div>
  );
}
