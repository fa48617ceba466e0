import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { chosenHistory } from "@/server/version-history";
import { PAGE_ROWS, readListRequest } from "@/server/list-request";
import { MODEL_FILTERS, modelPage, type ModelFilter } from "@/store/models";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { Empty } from "@/ui/basic/empty";
import { ListPages, ListSearch } from "@/ui/basic/list-tools";
import { PageTitle } from "@/ui/basic/page-title";
import { HistoryOfChoice } from "@/ui/versions/history-of-choice";
import { ModelTable } from "@/ui/judge/model-table";

export const metadata: Metadata = { title: "Models" };

const FILTERS: Readonly<Record<ModelFilter, string>> = {
  in_service: "in service",
  starred: "starred",
  retired: "retired",
};

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

export default async function ModelsPage({ searchParams }: Props) {
  const { store } = await appContext();
  const params = await searchParams;
  const asked = readListRequest(params, MODEL_FILTERS);
  const [{ entries, all }, pipelines, course] = await Promise.all([
    modelPage(store.db, { ...asked, limit: PAGE_ROWS }),
    listEveryPipeline(store.db),
    chosenHistory(typeof params.of === "string" ? params.of : undefined),
  ]);
  const place = { path: "/models", ...asked };
  const isNarrowed = asked.words !== "" || asked.filter !== undefined;
  return (
    <div className="page pb-16">
      <PageTitle title="Models">
        Each training run creates a version, stored with its learned values and metrics.
      </PageTitle>
      {all === 0 && !isNarrowed ? (
        <Empty title="No models yet.">Train a pipeline to create one.</Empty>
      ) : (
        <>
          {course && <HistoryOfChoice {...course} />}
          <ListSearch place={place} what="versions" filters={FILTERS} />
          {entries.length > 0 && <ModelTable models={entries} pipelines={pipelines} />}
          <ListPages place={place} all={all} rows={PAGE_ROWS} one="version" />
        </>
      )}
    </div>
  );
}
