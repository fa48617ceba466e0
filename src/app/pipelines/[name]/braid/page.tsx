import { braidOf } from "@/core/plan/braid";
import { editorWords } from "@/server/editor-words";
import { pageOf } from "@/server/stages";
import { BraidDesk } from "@/ui/braid/braid-desk";

export default async function BraidPage({ params }: { readonly params: Promise<{ name: string }> }) {
  const { pipeline, version, checked } = await pageOf((await params).name);
  const words = await editorWords();
  return (
    <BraidDesk
      pipeline={pipeline.name} version={version.number} text={version.text} words={words}
      braid={checked.ok ? braidOf(checked.value) : undefined} problems={checked.ok ? checked.value.warnings : checked.problems}
    />
  );
}
