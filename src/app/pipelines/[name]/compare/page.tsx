import { appContext } from "@/server/context";
import { pageOf } from "@/server/stages";
import { serviceHistory } from "@/store/models";
import { TrainButton } from "@/ui/basic/actions";
import { Empty } from "@/ui/basic/empty";
import { moment } from "@/ui/basic/format";
import { ModelTable } from "@/ui/judge/model-table";

export default async function ComparePage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, models } = await pageOf((await params).name);
  const { store } = await appContext();
  const history = await serviceHistory(store.db, pipeline.id);
  if (models.length === 0) return <div className="mx-auto max-w-3xl px-5 py-8"><Empty title="There is nothing to compare yet."><span className="mb-3 block">Train once; each training is kept as a version.</span><TrainButton pipeline={pipeline.name} /></Empty></div>;
  return (
    <div className="mx-auto max-w-6xl px-5 py-6">
      <h2 className="mb-1">Versions of the model</h2>
      <ModelTable models={models} pipelines={[pipeline]} onePipeline />
      {history.length > 0 && (
        <section className="mt-8" aria-label="Service history">
          <h2>What was in service when</h2>
          <ul className="mt-1">{history.map((each) => <li key={each.id}><span className="figure text-faded">{moment(each.at)}</span> {each.modelId === null ? "taken out of service" : `version ${models.find((model) => model.id === each.modelId)?.number ?? "?"} put in service`}</li>)}</ul>
        </section>
      )}
    </div>
  );
}
