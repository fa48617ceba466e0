import { pageOf } from "@/server/stages";
import { appContext } from "@/server/context";
import { textsAsideOf } from "@/store/texts-aside";
import { PipelineActions } from "@/ui/history/pipeline-actions";
import { TextsAside } from "@/ui/history/texts-aside";
import { VersionList } from "@/ui/history/version-list";

export default async function HistoryPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, versions, models } = await pageOf((await params).name);
  const { store } = await appContext();
  const aside = await textsAsideOf(store.db, pipeline.id);
  return (
    <div className="page py-6">
      <PipelineActions pipeline={pipeline.name} />
      <VersionList
        pipeline={pipeline.name}
        versions={versions.map((version) => ({
          number: version.number,
          text: version.text,
          note: version.note,
          createdAt: version.createdAt.toISOString(),
          trained: models
            .filter((model) => model.pipelineVersionId === version.id)
            .map((model) => model.number)
            .sort((left, right) => left - right),
        }))}
      />
      <TextsAside
        pipeline={pipeline.name}
        texts={aside.map(({ id, text, basedOn, whose, createdAt }) => ({
          id,
          text,
          basedOn,
          whose,
          createdAt: createdAt.toISOString(),
        }))}
      />
    </div>
  );
}
