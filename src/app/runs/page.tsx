import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { PAGE_ROWS, readListRequest } from "@/server/list-request";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { RUN_FILTERS, runPage, type RunFilter } from "@/store/run-list";
import { Empty } from "@/ui/basic/empty";
import { ListPages, ListSearch } from "@/ui/basic/list-tools";
import { PageTitle } from "@/ui/basic/page-title";
import { RunTable } from "@/ui/runs/run-table";

export const metadata: Metadata = { title: "Runs" };

const FILTERS: Readonly<Record<RunFilter, string>> = {
  done: "done",
  failed: "failed",
  cancelled: "cancelled",
  under_way: "waiting or running",
  train: "trainings",
  score: "scorings",
};

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function RunsPage({ searchParams }: Props) {
  const { store } = await appContext();
  const asked = readListRequest(await searchParams, RUN_FILTERS);
  const [{ entries, all }, pipelines] = await Promise.all([
    runPage(store.db, { ...asked, limit: PAGE_ROWS }),
    listEveryPipeline(store.db),
  ]);
  const place = { path: "/runs", ...asked };
  const isNarrowed = asked.words !== "" || asked.filter !== undefined;
  return (
    <div className="page pb-16">
      <PageTitle title="Runs">Newest first.</PageTitle>
      {all === 0 && !isNarrowed ? (
        <Empty title="No runs yet.">Train a pipeline to start one.</Empty>
      ) : (
        <>
          <ListSearch place={place} what="runs" filters={FILTERS} />
          {entries.length > 0 && (
            <RunTable runs={entries} names={new Map(pipelines.map(({ id, name }) => [id, name]))} />
          )}
          <ListPages place={place} all={all} rows={PAGE_ROWS} one="run" />
        </>
      )}
    </div>
  );
}
