import { someOf } from "@/core/format/some-names";
import { formatDuration, formatNumber, formatShare } from "@/core/format/numbers";
import { metricsFor } from "@/core/evaluate/metrics";
import { ALGORITHMS, factsOf } from "@/core/learn/algorithms";
import { fitCount, trialCount } from "@/core/learn/search/space";
import type { Candidate } from "@/core/pipeline/schema";
import type { CheckedPlan } from "@/core/plan/plan";
import { searchableIn } from "@/core/plan/check-candidates";
import { writeTableName } from "@/core/pipeline/table-name";
import { isNumber } from "@/core/value-type";
import { appContext } from "@/server/context";
import { pageOf } from "@/server/stages";
import { offeredTables } from "@/server/tables";
import { listRuns, runRecord } from "@/store/runs";
import { trialsOf } from "@/store/searches";
import { CancelButton } from "@/ui/basic/actions";

import { Problems } from "@/ui/basic/problems";
import { StateWord } from "@/ui/basic/state-word";
import { TrainingChart } from "@/ui/charts/training-chart";
import { LiveRun } from "@/ui/runs/live-run";
import { RunSteps } from "@/ui/train/run-steps";
import { EarlierRuns } from "@/ui/runs/earlier-runs";
import { RunTable } from "@/ui/runs/run-table";

import { CandidateActions } from "@/ui/train/candidate-actions";
import { CandidateForm } from "@/ui/train/candidate-form";
import { SearchRanking } from "@/ui/train/search-ranking";
import { ResultLink } from "@/ui/train/result-link";
import { UnsavedDraft } from "@/ui/train/unsaved-draft";
import { MendPanel } from "@/ui/train/mend-panel";
import { RolesPanel } from "@/ui/train/roles/roles-panel";
import { DivisionPanel } from "@/ui/train/division/division-panel";

/** Columns that are named in a sentence. */
const FEW_NAMES = 6;
/** Training runs that are listed, the newest. */
const FEW_RUNS = 12;

const WHERE = {
  auto: "automatic place",
  warehouse: "rows stay in the warehouse",
  streaming: "rows stream to the worker",
} as const;
/** Settings that differ from their defaults, in one line. */
function told({ algorithm, settings }: Candidate): string {
  const standard = ALGORITHMS[algorithm].settings.parse({}) as Readonly<Record<string, unknown>>;
  const own = Object.entries(settings).filter(
    ([name, value]) => JSON.stringify(value) !== JSON.stringify(standard[name]),
  );
  return own.length === 0
    ? "as they come"
    : own
        .map(
          ([name, value]) =>
            `${name.replaceAll("_", " ")} ${Array.isArray(value) ? value.join("-") : typeof value === "object" ? JSON.stringify(value) : String(value)}`,
        )
        .join(", ");
}

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
        `${someOf(names, FEW_NAMES)} ${names.length === 1 ? "is" : "are"} skipped: ${because}.`,
    )
    .join(" ");
}

export default async function TrainPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked, versions, version, draft } = await pageOf((await params).name);
  const { store, warehouse } = await appContext();
  const tables = checked.ok ? (await offeredTables(warehouse)).tables : [];
  const runs = await listRuns(store.db, { limit: FEW_RUNS, pipelineId: pipeline.id, kind: "train" });
  const newest = runs.find((each) => each.state === "running") ?? runs[0];
  const live = newest && (newest.state === "running" || newest.state === "queued");
  const [record, trials] = newest
    ? await Promise.all([runRecord(store.db, newest.id), trialsOf(store.db, newest.id)])
    : [undefined, []];
  const attempt = Math.max(0, ...(record?.passes ?? []).map((each) => each.attempt));
  const passes = (record?.passes ?? []).filter((each) => each.attempt === attempt);
  const file = checked.ok ? checked.value.file : undefined;
  const running = file?.candidates.find(
    (each) => each.name === (newest?.options.candidate ?? file.candidates[0]?.name),
  );
  const held = passes.filter((each) => each.validation !== null);
  const best =
    held.length > 0
      ? held.reduce((most, each) => (each.validation! < most.validation! ? each : most))
      : undefined;
  return (
    <div className="page py-6">
      {live && <LiveRun run={newest.id} />}
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
      {newest && (
        <section className="mb-8" aria-label="Latest training run">
          <h2 className="flex items-center gap-3">
            {live
              ? `Training “${newest.options.candidate ?? running?.name ?? ""}”`
              : "The latest training run"}{" "}
            <span className="text-sm font-normal">
              <StateWord state={newest.state} />
            </span>{" "}
            <ResultLink
              live={live === true}
              href={newest.modelId === null ? `/runs/${newest.id}` : `/models/${newest.modelId}`}
            >
              {newest.modelId === null ? "its run" : (newest.outcome ?? "result")}
            </ResultLink>
            {live && <CancelButton run={newest.id} />}
          </h2>
          {live && (
            <p className="text-faded" role="status">
              {record?.steps.at(-1)?.name ?? "waiting for a worker"}
              {newest.startedAt ? `; ${formatDuration(Date.now() - newest.startedAt.getTime())} so far` : ""}
              {(newest.options.without ?? []).length > 0
                ? `; without ${newest.options.without!.join(", ")}`
                : ""}
              {newest.options.share === undefined
                ? ""
                : `; on ${formatShare(newest.options.share)} of the rows`}
            </p>
          )}
          {newest.problems.length > 0 && (
            <div className="mt-2">
              <Problems problems={newest.problems} />
            </div>
          )}
          <div className="mt-3 flex flex-wrap gap-x-10 gap-y-4">
            {passes.length > 0 && (
              <div>
                <TrainingChart passes={passes} chosen={best?.pass} />
              </div>
            )}
            {record && record.steps.length > 0 && (
              <RunSteps
                steps={record.steps.filter((each) => each.attempt === newest.attempt)}
                live={live === true}
              />
            )}
          </div>
          {trials.length > 0 && (
            <div className="mt-3">
              <SearchRanking
                trials={trials}
                metric={running?.search?.metric ?? metricsFor(file?.roles.target.kind ?? "binary")[0]!}
                most={running?.search ? trialCount(running.search) : trials.length}
              />
            </div>
          )}
        </section>
      )}
      {checked.ok && file && (
        <>
          <div className="mb-5">
            <MendPanel pipeline={pipeline.name} text={version.text} />
          </div>
          <div className="flex items-center gap-4">
            <h2>Candidates</h2>
            <CandidateForm
              pipeline={pipeline.name}
              file={file}
              steps={searchableSteps(checked.value)}
              place={null}
            >
              <button type="button" className="press">
                Add candidate
              </button>
            </CandidateForm>
          </div>
          <table className="sheet mt-1" data-testid="candidates">
            <thead>
              <tr>
                <th>Candidate</th>
                <th>Algorithm</th>
                <th>Settings</th>
                <th>Where</th>
                <th className="number">Fits</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {file.candidates.map((each, place) => {
                const { fits, trials: combinations, folds } = fitCount(each, file);
                return (
                  <tr key={each.name}>
                    <td>
                      <CandidateForm
                        pipeline={pipeline.name}
                        file={file}
                        steps={searchableSteps(checked.value)}
                        place={place}
                      >
                        <button
                          type="button"
                          className="text-left font-medium underline decoration-rule underline-offset-3"
                          title="Edit"
                        >
                          {each.name}
                        </button>
                      </CandidateForm>
                      {each.note && <span className="block text-sm text-faded">{each.note}</span>}
                    </td>
                    <td>{factsOf(each.algorithm).title}</td>
                    <td className="text-sm text-faded">
                      {told(each)}
                      {each.search && (
                        <span className="block">
                          searches{" "}
                          {each.search.try
                            .map(
                              (range) =>
                                `${range.step === undefined ? "" : `${range.step}: `}${range.setting}`,
                            )
                            .join(", ")}
                        </span>
                      )}
                    </td>
                    <td className="text-sm">{WHERE[each.engine]}</td>
                    <td
                      className="number"
                      title={
                        combinations > 0
                          ? `${combinations} combinations in ${folds} folds, and the last fit`
                          : folds > 0
                            ? `${folds} folds, and the last fit`
                            : "one fit"
                      }
                    >
                      {formatNumber(fits)}
                    </td>
                    <td className="text-right">
                      <CandidateActions
                        pipeline={pipeline.name}
                        candidate={each.name}
                        place={place}
                        only={file.candidates.length === 1}
                      />
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
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
