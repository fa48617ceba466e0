import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { listModels } from "@/store/models";
import { listEveryPipeline } from "@/store/pipeline-lives";
import { Empty } from "@/ui/basic/empty";
import { PageTitle } from "@/ui/basic/page-title";
import { ModelTable } from "@/ui/judge/model-table";

export const metadata: Metadata = { title: "Models" };

export default async function ModelsPage() {
  const { store } = await appContext();
  const [models, pipelines] = await Promise.all([listModels(store.db), listEveryPipeline(store.db)]);
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title="Models">
        Every training makes a version, and every version is kept with what it learned and how it did.
      </PageTitle>
      {models.length === 0 ? (
        <Empty title="Nothing has been trained yet.">Open a pipeline and choose Train.</Empty>
      ) : (
        <ModelTable models={models} pipelines={pipelines} />
      )}
    </div>
  );
}
