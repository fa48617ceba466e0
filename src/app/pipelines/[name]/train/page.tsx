import Link from "next/link";
import { appContext } from "@/server/context";
import { pageOf } from "@/server/stages";
import { listRuns, runRecord } from "@/store/runs";
import { TrainButton } from "@/ui/basic/actions";
import { Problems } from "@/ui/basic/problems";
import { StateWord } from "@/ui/basic/state-word";
import { TrainingChart } from "@/ui/charts/training-chart";
import { LiveRun } from "@/ui/runs/live-run";
import { RunTable } from "@/ui/runs/run-table";

export default async function TrainPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, checked } = await pageOf((await params).name);
  const { store } = await appContext();
  const runs = await listRuns(store.db, { limit: 12, pipelineId: pipeline.id, kind: "train" });
  const newest = runs[0];
  const live = newest && (newest.state === "running" || newest.state === "queued");
  const record = newest && (await runRecord(store.db, newest.id));
  const attempt = Math.max(0, ...(record?.passes ?? []).map((each) => each.attempt));
  const passes = (record?.passes ?? []).filter((each) => each.attempt === attempt);
  return (
    <div className="mx-auto max-w-6xl px-5 py-6">
      {live && <LiveRun run={newest.id} />}
      {!checked.ok && <div className="mb-6"><h2 className="mb-2">The file must be mended before it can be trained.</h2><Problems problems={checked.problems} /></div>}
      {checked.ok && (
        <>
          <h2>Candidates</h2>
          <table className="sheet mt-1">
            <thead><tr><th>Candidate</th><th>Algorithm</th><th>Settings</th><th>Where</th><th /></tr></thead>
            <tbody>
              {checked.value.file.candidates.map((each) => (
                <tr key={each.name}>
                  <td className="font-medium">{each.name}</td>
                  <td>{each.algorithm.replaceAll("_", " ")}</td>
                  <td className="text-faded">ridge {each.settings.ridge}, tolerance {each.settings.tolerance}, at most {each.settings.most_passes} passes</td>
                  <td>rows stay in the warehouse</td>
                  <td className="text-right"><TrainButton pipeline={pipeline.name} candidate={each.name} /></td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-3 text-sm text-faded">
            {checked.value.features.length} columns are features. The holdout takes {(100 * checked.value.file.holdout.share).toFixed(0)} % of the rows by {checked.value.file.holdout.by === "key" ? "a hash of the key" : checked.value.file.holdout.by === "group" ? "whole groups" : "time"}, seed {String(checked.value.file.holdout.seed)}: the same rows every time.
            {" "}{[...checked.value.roles].filter(([, role]) => role.role === "excluded").map(([name, role]) => `“${name}” is left out: ${role.because ?? ""}`).join(" ")}
          </p>
          <div className="mt-3"><Problems problems={checked.value.warnings} /></div>
        </>
      )}
      {newest && (
        <section className="mt-8" aria-label="Newest training">
          <h2 className="flex items-center gap-3">{live ? "Training now" : "The newest training"} <span className="text-sm font-normal"><StateWord state={newest.state} /></span> <Link className="text-sm font-normal" href={`/runs/${newest.id}`}>its run</Link></h2>
          {live && <p className="text-faded" role="status">{record?.steps.at(-1)?.name ?? "waiting for a worker"}</p>}
          {newest.problems.length > 0 && <div className="mt-2"><Problems problems={newest.problems} /></div>}
          {passes.length > 0 && <div className="mt-3"><TrainingChart passes={passes} /></div>}
        </section>
      )}
      {runs.length > 0 && <section className="mt-8" aria-label="Training runs"><h2>Training runs</h2><RunTable runs={runs} names={new Map([[pipeline.id, pipeline.name]])} /></section>}
    </div>
  );
}
