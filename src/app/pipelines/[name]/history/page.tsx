import { pageOf } from "@/server/stages";
import { moment } from "@/ui/basic/format";
import { DiffView } from "@/ui/editor/diff-view";

export default async function HistoryPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { versions, models } = await pageOf((await params).name);
  return (
    <div className="mx-auto max-w-5xl px-5 py-6">
      <h2 className="mb-2">Versions of the file</h2>
      <ol className="border-t border-rule">
        {versions.map((version, index) => {
          const before = versions[index + 1];
          const trained = models.filter((model) => model.pipelineVersionId === version.id).map((model) => model.number);
          return (
            <li key={version.id} className="border-b border-rule py-3">
              <details open={index === 0 && before !== undefined}>
                <summary className="cursor-pointer"><span className="font-semibold">version {version.number}</span> <span className="text-faded">{moment(version.createdAt)}</span>{version.note && <span> · {version.note}</span>}{trained.length > 0 && <span className="text-sm text-faded"> · trained as model version{trained.length > 1 ? "s" : ""} {trained.sort((left, right) => left - right).join(", ")}</span>}</summary>
                <div className="mt-2 max-h-[460px] overflow-auto bg-paper">{before ? <DiffView before={before.text} after={version.text} /> : <pre className="px-3 py-2 text-[12.5px]">{version.text}</pre>}</div>
              </details>
            </li>
          );
        })}
      </ol>
    </div>
  );
}
