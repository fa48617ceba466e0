"use client";
import { valueIn } from "@/core/pipeline/edit/parts";
import type { DraftPage } from "@/server/draft-page";
import { Problems } from "../basic/problems";
import { DraftNotices } from "../braid/tool-line";
import { DraftProvider, useDesk } from "../draft/draft-context";
import { useDraft } from "../draft/use-draft";
import { useSaveVersion } from "../editor/use-save-version";
import { BriefLine } from "./brief-line";
import { ExpectationList } from "./expectation-list";
import { MomentLine } from "./moment-line";
import { SuccessLine } from "./success-line";
import { TypedLine } from "./typed-line";
import { useBrief } from "./use-brief";

/** The statement of the problem, written where it is read. */
export function BriefDesk({ pipeline, version, stored, words, first }: DraftPage) {
  const draft = useDraft(pipeline, version, stored);
  return (
    <DraftProvider pipeline={pipeline} draft={draft} words={words} first={first}>
      <Brief version={version} basedOn={stored?.basedOn} />
    </DraftProvider>
  );
}

function Brief({
  version,
  basedOn,
}: {
  readonly version: DraftPage["version"];
  readonly basedOn: number | undefined;
}) {
  const { problems } = useDesk();
  const { text, put } = useBrief();
  const errors = problems.filter(
    ({ severity, location }) => severity === "error" && location?.path?.[0] === "brief",
  );
  return (
    <div className="page py-6">
      <BriefTools version={version} />
      <DraftNotices basedOn={basedOn} version={version.number} />
      <article className="grid max-w-5xl gap-x-16 gap-y-4 font-serif text-section leading-relaxed 2xl:max-w-none 2xl:grid-cols-2">
        <div className="min-w-0 space-y-4">
          <TypedLine
            label="Question"
            value={text("question")}
            onChange={(value) => put(["question"], value)}
            placeholder="What should be predicted? Ask it as a colleague would."
            className="text-title font-medium"
          />
          <BriefLine label="One row is">
            <TypedLine
              label="One row is"
              value={text("row")}
              onChange={(value) => put(["row"], value)}
              placeholder="for example: one delivered parcel"
            />
          </BriefLine>
          <MomentLine />
          <BriefLine label="Users">
            <TypedLine
              label="Who uses it"
              value={text("users")}
              onChange={(value) => put(["users"], value)}
              placeholder="Who acts on it, and how"
            />
          </BriefLine>
          <SuccessLine />
        </div>
        <div className="min-w-0 space-y-4">
          <ExpectationList />
          <ExcludedList />
        </div>
      </article>
      {errors.length > 0 && (
        <div className="mt-4">
          <Problems problems={errors} />
        </div>
      )}
    </div>
  );
}

/** How the draft is saved. */
function BriefTools({ version }: { readonly version: DraftPage["version"] }) {
  const { pipeline, draft, problems } = useDesk();
  const { askToSave, dialog } = useSaveVersion(pipeline, version);
  const saving = draft.keeping === "kept" ? "draft saved" : "saving draft …";
  return (
    <div className="mb-4 flex items-center gap-2 text-caption text-faded">
      <span role="status" data-testid="keeping">
        {draft.changed ? saving : `version ${version.number}`}
      </span>
      <button
        type="button"
        className="press press-quiet ml-auto px-2 py-0.5"
        disabled={!draft.canUndo}
        onClick={draft.undo}
      >
        Undo
      </button>
      <button
        type="button"
        className="press press-main py-0.5"
        disabled={!draft.changed || problems.some(({ severity }) => severity === "error")}
        onClick={askToSave}
      >
        Save version
      </button>
      {dialog}
    </div>
  );
}

/** Columns that are no features, with the reasons. */
function ExcludedList() {
  const { draft } = useDesk();
  const excluded = (valueIn(draft.text, ["roles", "exclude"]) ?? []) as readonly {
    readonly column: string;
    readonly because: string;
  }[];
  if (excluded.length === 0) return null;
  return (
    <section aria-label="Excluded" className="pt-3">
      <h2 className="font-sans">Excluded from features</h2>
      <ul className="mt-1 space-y-1">
        {excluded.map(({ column, because }) => (
          <li key={column}>
            <code className="text-body">{column}</code>: {because}
          </li>
        ))}
      </ul>
    </section>
  );
}
