import { openDraft } from "@/runs/draft/survey";
import { draftOf } from "@/store/drafts";
import { appContext } from "./context";
import { editorWords } from "./editor-words";
import { pageOf } from "./stages";

/** What a page that edits a pipeline begins with: the newest version, the draft of it if there is one, and a first look at the text. */
export async function draftForPage(name: string) {
  const { pipeline, version } = await pageOf(name);
  const { store, warehouse } = await appContext();
  const draft = await draftOf(store.db, pipeline.id);
  const [words, { survey }] = await Promise.all([
    editorWords(),
    openDraft(draft?.text ?? version.text, warehouse),
  ]);
  return {
    pipeline: pipeline.name,
    version: { number: version.number, text: version.text },
    words,
    first: survey,
    stored: draft && { text: draft.text, revision: draft.revision, basedOn: draft.basedOn },
  };
}

/** What a desk that edits a pipeline is given. */
export type DraftPage = Awaited<ReturnType<typeof draftForPage>>;
