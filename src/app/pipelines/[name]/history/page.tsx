import { pageOf } from "@/server/stages";
import { PipelineActions } from "@/ui/history/pipeline-actions";
import { VersionList } from "@/ui/history/version-list";

export default async function HistoryPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, versions, models } = await pageOf((await params).name);
  return (
    <div className="mx-auto max-w-[1240px] px-5 py-6">
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
    </div>
  );
}
