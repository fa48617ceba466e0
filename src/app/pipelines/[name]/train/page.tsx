import type { CheckedPlan } from "@/core/plan/plan";
import { searchableIn } from "@/core/plan/check-candidates";
import { writeTableName } from "@/core/pipeline/table-name";
import { appContext } from "@/server/context";
import { pageOf } from "@/server/stages";
import { offeredTables } from "@/server/tables";
import { listRuns, runRecord } from "@/store/runs";
import { trialsOf } from "@/store/searches";
import { usualSteps } from "@/store/usual-steps";

import { AfterFirstPaint } from "@/ui/basic/after-first-paint";
import { Problems } from "@/ui/basic/problems";
import { LiveRun } from "@/ui/runs/live-run";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";

import { CandidateTable } from "@/ui/train/candidate-table";
import { LatestTraining } from "@/ui/train/latest-training";
import { SearchRanking } from "@/ui/train/search-ranking";
import { isLive, searchOf } from "@/ui/train/training-facts";
import { UnsavedDraft } from "@/ui/train/unsaved-draft";
import { MendPanel } from "@/ui/train/mend-panel";
import { RolesPanel } from "@/ui/train/roles/roles-panel";
import { ValidationSection } from "@/ui/train/validation-section";

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

export default async function TrainPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked, versions, version, draft } = await pageOf((await params).name);
  const { store, warehouse } = await appContext();
  const [offered, runs] = await Promise.all([
    checked.ok ? offeredTables(warehouse) : undefined,
    listRuns(store.db, { limit: FEW_RUNS, pipelineId: pipeline.id, kind: "train" }),
  ]);
  const newest = runs.find(({ state }) => state === "running") ?? runs[0];
  const [record, trials, usual] = newest
    ? await Promise.all([
        runRecord(store.db, newest.id),
        trialsOf(store.db, newest.id),
        isLive(newest) ? usualSteps(store.db, newest) : [],
      ])
    : [undefined, [], []];
  const plan = checked.ok ? checked.value : undefined;
  const search = newest && searchOf(newest, plan?.file, trials);
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
      <div className="grid items-start gap-x-12 gap-y-8 xl:grid-cols-[minmax(0,1fr)_minmax(26rem,36%)]">
        {newest && (
          <div className="min-w-0 xl:sticky xl:top-4 xl:order-last">
            <LatestTraining run={newest} record={record} search={search} file={plan?.file} usual={usual} />
          </div>
        )}
        {plan && (
          <div className={`@container min-w-0 ${newest ? "" : "xl:col-span-2"}`}>
            <MendPanel pipeline={pipeline.name} text={version.text} />
            <CandidateTable pipeline={pipeline.name} file={plan.file} steps={searchableSteps(plan)} />
            {search && (
              <div className="mt-6">
                <SearchRanking {...search} />
              </div>
            )}
            <section className="mt-6" aria-label="Roles">
              <h2 className="mb-2">Column roles</h2>
              <RolesPanel
                key={versions[0]?.number}
                pipeline={pipeline.name}
                file={plan.file}
                columns={finalColumns(plan)}
              />
            </section>
            <ValidationSection
              pipeline={pipeline.name}
              plan={plan}
              version={versions[0]?.number}
              tables={(offered?.tables ?? []).map(writeTableName)}
            />
          </div>
        )}
      </div>
      {runs.length > 0 && (
        <AfterFirstPaint>
          <section className="mt-8" aria-label="Training runs">
            <h2>Training runs</h2>
            <RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} />
            <EarlierRuns shown={runs.length} few={FEW_RUNS} />
          </section>
        </AfterFirstPaint>
      )}
    </div>
  );
}
