"use client";
import { parseAsBoolean, useQueryState } from "nuqs";
import { useCallback, useState } from "react";
import type { DraftPage } from "@/server/draft-page";
import { Problems } from "../basic/problems";
import { DraftProvider, useDesk } from "../draft/draft-context";
import { useDraft } from "../draft/use-draft";
import { FileEditor } from "../editor/file-editor";
import { useSaveVersion } from "../editor/use-save-version";
import { useTellStage } from "../frame/stage-words";
import { BraidOverlays } from "./braid-overlays";
import { braidStage } from "./braid-stage";
import { DrawnBraid } from "./drawn-braid";
import { FollowRow } from "./follow-row";
import { Signs } from "./legend";
import { PickColumns } from "./pick-columns";
import { columnsAt, type ColumnHere, type Place } from "./places";
import { RowsAhead } from "./rows-ahead";
import { DraftNotices, ToolLine } from "./tool-line";
import { Tray } from "./tray";
import { useAdding } from "./use-adding";
import { useAwaited } from "./use-awaited";
import { useBraidActions } from "./use-braid-actions";
import { useBraidCommands } from "./use-braid-commands";
import { useBraidSelection } from "./use-braid-selection";
import { useCounts } from "./use-counts";

/** The Braid of a draft with its tray, and the file beside it when wanted: two views of one text. */
export function BraidDesk({ pipeline, version, stored, words, first }: DraftPage) {
  const draft = useDraft(pipeline, version, stored);
  return (
    <DraftProvider pipeline={pipeline} draft={draft} words={words} first={first}>
      <Workbench version={version} basedOn={stored?.basedOn} />
    </DraftProvider>
  );
}

const NO_COLUMNS: readonly ColumnHere[] = [];
/** The tray shows the settings after so long. */
const TRAY_MILLISECONDS = 60;

function Workbench({
  version,
  basedOn,
}: {
  readonly version: DraftPage["version"];
  readonly basedOn: number | undefined;
}) {
  const desk = useDesk();
  const { braid, draft, problems } = desk;
  const [, setTab] = useQueryState("tray");
  const [file, setFile] = useQueryState("file", parseAsBoolean.withDefault(false));
  const [follow, setFollow] = useQueryState("follow");
  const [picking, setPicking] = useState(false);
  const { askToSave, dialog } = useSaveVersion(desk.pipeline, version);
  const measured = useCounts(braid);
  useTellStage({ pipeline: desk.pipeline, stage: "Braid", ...braidStage(desk, version.text) });
  const selection = useBraidSelection(desk);
  const { crossing, addAt, select, pick, thread } = selection;
  const { awaited, isAwaiting } = useAwaited(desk.reading);
  const selectMade = useCallback(
    (place: Place): void => {
      awaited();
      select(place);
    },
    [awaited, select],
  );
  const actions = useBraidActions(selectMade);
  const adding = useAdding(selection, actions, desk.surveyed);
  const onRename = (): void => {
    void setTab("settings");
    setTimeout(
      () => document.querySelector<HTMLInputElement>('#tray input[aria-label="name"]')?.focus(),
      TRAY_MILLISECONDS,
    );
  };
  const onFollow = useCallback(() => void setFollow(""), [setFollow]);
  const onKey = useBraidCommands({
    draft,
    selection,
    isAwaiting,
    adding,
    actions,
    onPick: () => setPicking(true),
    onRename,
    onFollow,
    onSave: askToSave,
  });
  const isFileOpen = file || !braid;
  return (
    <div className="flex h-[calc(100vh-49px-56px-var(--tour))] min-h-[520px] flex-col">
      <ToolLine
        counting={
          measured.done < measured.total
            ? `counting rows: ${measured.done} of ${measured.total} places`
            : "exact row counts"
        }
        file={isFileOpen}
        follow={follow !== null}
        version={version.number}
        onAdd={() => adding.open("here")}
        onJoin={() => adding.setJoining(true)}
        onPaste={() => {
          if (addAt) actions.paste(addAt);
        }}
        onFile={() => void setFile(!file)}
        onFollow={() => void setFollow(follow === null ? "" : null)}
        onSave={askToSave}
        signs={
          <>
            <PickColumns
              columns={braid && addAt ? columnsAt(braid, addAt) : NO_COLUMNS}
              open={picking}
              onOpenChange={setPicking}
              onPick={(columns) => pick(columns.map((column) => column.thread))}
            />
            <Signs />
          </>
        }
      />
      <DraftNotices basedOn={basedOn} version={version.number} />
      {braid && <RowsAhead draft={draft} share={desk.share} />}
      <div className="flex min-h-0 flex-1">
        <div className="flex min-w-0 flex-1 flex-col">
          {braid ? (
            <>
              <DrawnBraid
                braid={braid}
                measured={measured}
                selection={selection}
                adding={adding}
                actions={actions}
                onKey={onKey}
              />
              {follow !== null ? (
                <FollowRow value={follow} onValue={(value) => void setFollow(value)} />
              ) : (
                <Tray
                  crossing={crossing}
                  isAwaiting={isAwaiting}
                  focusForm={adding.isFormFocused}
                  onFocused={adding.onFormFocused}
                  touched={selection.touched}
                  thread={thread?.name}
                  actions={actions}
                  onRename={onRename}
                />
              )}
            </>
          ) : (
            <div className="page py-8">
              <h2 className="mb-3">The file is not a valid pipeline yet, so the Braid cannot be drawn.</h2>
              <Problems lines problems={problems} />
            </div>
          )}
        </div>
        {isFileOpen && (
          <div className="w-[44%] min-w-[380px] border-l border-rule">
            <FileEditor
              text={draft.text}
              onChange={(text) => draft.put(text, true)}
              words={desk.words}
              problems={problems}
              reading={desk.reading}
            />
          </div>
        )}
      </div>
      <BraidOverlays braid={braid} selection={selection} adding={adding} actions={actions} />
      {dialog}
    </div>
  );
}
