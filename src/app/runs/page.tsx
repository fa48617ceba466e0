import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { listPipelines } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import { Empty } from "@/ui/basic/empty";
import { PageTitle } from "@/ui/basic/page-title";
import { RunTable } from "@/ui/runs/run-table";

export const metadata: Metadata = { title: "Runs" };
const SHOWN = 100;

export default async function RunsPage() {
  const { store } = await appContext();
  const [runs, pipelines] = await Promise.all([
    listRuns(store.db, { limit: SHOWN }),
    listPipelines(store.db),
  ]);
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title="Runs">
        {runs.length === SHOWN ? `The newest ${SHOWN}.` : "All of them, newest first."}
      </PageTitle>
      {runs.length === 0 ? (
        <Empty title="Nothing has run yet.">Train a pipeline to begin.</Empty>
      ) : (
        <RunTable runs={runs} names={new Map(pipelines.map((each) => [each.id, each.name]))} />
      )}
    </div>
  );
}
