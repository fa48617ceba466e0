import type { Metadata } from "next";
import { nameInput } from "@/server/answer/inputs";
import { editorWords } from "@/server/editor-words";
import { NewPipelineDesk } from "@/ui/editor/new-pipeline";

export const metadata: Metadata = { title: "New pipeline" };

export default async function NewPipelinePage({
  searchParams,
}: {
  readonly searchParams: Promise<{ table?: string }>;
}) {
  return (
    <div className="flex min-h-[calc(100vh-49px)] flex-col">
      <div className="mx-auto w-full max-w-4xl px-5 pb-4 pt-6">
        <h1>New pipeline</h1>
        <p className="text-faded">
          A few answers make a small, sound file. Joins, features and everything else are added in the Braid.
        </p>
      </div>
      <NewPipelineDesk
        words={await editorWords()}
        table={nameInput.safeParse((await searchParams).table).data}
      />
    </div>
  );
}
