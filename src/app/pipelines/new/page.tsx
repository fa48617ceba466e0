import type { Metadata } from "next";
import { nameInput } from "@/server/answer/inputs";
import { appContext } from "@/server/context";
import { editorWords } from "@/server/editor-words";
import { listPipelines } from "@/store/pipelines";
import { NewPipelineDesk } from "@/ui/new-pipeline/new-pipeline-desk";

export const metadata: Metadata = { title: "New pipeline" };

export default async function NewPipelinePage({
  searchParams,
}: {
  readonly searchParams: Promise<{ table?: string }>;
}) {
  const { store } = await appContext();
  const [words, pipelines] = await Promise.all([editorWords(), listPipelines(store.db)]);
  return (
    <div className="flex min-h-[calc(100vh-49px)] flex-col">
      <div className="page pb-4 pt-6">
        <h1>New pipeline</h1>
        <p className="text-faded">
          Choose a table and a target. Everything else is proposed and can be changed now or later.
        </p>
      </div>
      <NewPipelineDesk
        words={words}
        table={nameInput.safeParse((await searchParams).table).data}
        taken={pipelines.map(({ name }) => name)}
      />
    </div>
  );
}
