"use client";
import { parseAsBoolean, useQueryState } from "nuqs";
import { useCallback, useMemo, useRef, useState, type KeyboardEvent } from "react";
import type { Thread } from "@/core/plan/braid";
import type { DraftPage } from "@/server/draft-page";
import { Problems } from "../basic/problems";
import { DraftProvider, useDesk } from "../draft/draft-context";
import { useDraft } from "../draft/use-draft";
import { FileEditor } from "../editor/file-editor";
import { useTellStage } from "../frame/stage-words";
import { useSaveVersion } from "../editor/use-save-version";
import { useOffer, type OfferedAction } from "../frame/offered-actions";
import { AddStep } from "./add-step";
import { braidStage } from "./braid-stage";
import { BraidView } from "./braid-view";
import { describeThread, touchedBy } from "./describe-thread";
import { FollowRow } from "./follow-row";
import { Signs } from "./legend";
import {
  columnsAt,
  lengthOf,
  mainGroup,
  placeFor,
  placeKey,
  placeNow,
  type ColumnHere,
  type Place,
} from "./places";
import { JoinTableDialog } from "./join-table/join-table-dialog";
import { PickColumns } from "./pick-columns";
import { RowsAhead } from "./rows-ahead";
import { DraftNotices, ToolLine } from "./tool-line";
import { Tray } from "./tray";
import { useAwaited } from "./use-awaited";
import { useBraidActions } from "./use-braid-actions";
import { useCounts } from "./use-counts";
import { VerbLine } from "./verb-line";

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

function Workbench({
  version,
  basedOn,
}: {
  readonly version: DraftPage["version"];
  readonly basedOn: number | undefined;
}) {
  const desk = useDesk();
  const { braid, draft, problems } = desk;
  const [step, setStep] = useQueryState("step");
  const [threadId, setThreadId] = useQueryState("thread");
  const [, setTab] = useQueryState("tray");
  const [file, setFile] = useQueryState("file", parseAsBoolean.withDefault(false));
  const [follow, setFollow] = useQueryState("follow");
  const [pickedIds, setPickedIds] = useState<ReadonlySet<string>>(new Set());
  const [addingAt, setAddingAt] = useState<Place | "here">();
  const [isJoining, setJoining] = useState(false);
  const [focusForm, setFocusForm] = useState(false);
  const onFocused = useCallback(() => setFocusForm(false), []);
  const [picking, setPicking] = useState(false);
  const { askToSave, dialog } = useSaveVersion(desk.pipeline, version);
  const measured = useCounts(braid);
  useTellStage({ pipeline: desk.pipeline, stage: "Braid", ...braidStage(desk, version.text) });
  const select = useCallback((place: Place) => void setStep(placeKey(place)), [setStep]);
  const { awaited, isAwaiting } = useAwaited(desk.reading);
  const selectMade = useCallback(
    (place: Place): void => {
      awaited();
      select(place);
    },
    [awaited, select],
  );
  const actions = useBraidActions(selectMade);

  const selected =
    braid?.crossings.findIndex(
      (each) => placeKey({ strand: each.strand, after: each.position + 1 }) === step,
    ) ?? -1;
  const crossing = braid?.crossings[selected];
  const threads = useMemo(
    () => new Map((braid?.groups ?? []).flatMap((group) => group.threads).map((each) => [each.id, each])),
    [braid],
  );
  const pickedThreads = useMemo(
    () =>
      [...pickedIds].flatMap((id): Thread[] => {
        const found = threads.get(id);
        return found ? [found] : [];
      }),
    [pickedIds, threads],
  );
  const touched = useMemo(
    () => (braid && selected >= 0 ? touchedBy(braid, selected) : []),
    [braid, selected],
  );
  const selectedPlace = crossing && { strand: crossing.strand, after: crossing.position + 1 };
  const about = braid && pickedThreads.length > 0 ? placeFor(braid, pickedThreads, selectedPlace) : undefined;
  const end: Place | undefined = braid && {
    strand: mainGroup(braid)?.strand ?? "",
    after: lengthOf(braid, mainGroup(braid)?.strand ?? ""),
  };
  const pickedColumns = useMemo((): readonly ColumnHere[] => {
    const here = braid && about ? columnsAt(braid, about.place) : [];
    return about
      ? about.names.flatMap((name) => here.find((each) => each.name === name) ?? [])
      : pickedThreads.flatMap((each) => {
          const last = each.stretches.at(-1);
          return last
            ? [{ name: each.name, type: last.type, family: last.family, bundle: false, thread: each.id }]
            : [];
        });
  }, [braid, about, pickedThreads]);

  const onThread = useCallback(
    (id: string, pick: "only" | "more" | "none"): void => {
      void setThreadId(id);
      if (pick === "none") return;
      setPickedIds((now) => {
        if (pick === "only") return now.size === 1 && now.has(id) ? new Set() : new Set([id]);
        const next = new Set(now);
        if (!next.delete(id)) next.add(id);
        return next;
      });
    },
    [setThreadId],
  );
  const wanted = about?.place ?? selectedPlace ?? end;
  const [strandHere, afterHere] = [wanted?.strand, wanted?.after];
  // The same place is the same object, as long as it is the same place.
  const addAt = useMemo(
    (): Place | undefined =>
      strandHere === undefined || afterHere === undefined
        ? undefined
        : { strand: strandHere, after: afterHere },
    [strandHere, afterHere],
  );
  // Asked for without a place, it is where it is by now: the drawing may have grown since.
  const adding = addingAt === "here" ? addAt : addingAt;
  // The drawing is of a moment ago while it is made anew: whoever adds steps faster than that still gets them in their order.
  const added = useRef({ to: desk.surveyed, places: [] as Place[] });
  const addAtNow = (place: Place, add: (now: Place) => void): void => {
    if (added.current.to !== desk.surveyed) added.current = { to: desk.surveyed, places: [] };
    add(placeNow(place, added.current.places, step));
    added.current.places.push(place);
  };
  const insert = (kind: string, place: Place): void => {
    addAtNow(place, (now) => actions.insert(kind, now, about?.names ?? []));
    setPickedIds(new Set());
    setFocusForm(true);
    void setTab("settings");
  };
  const onDrop = useCallback(
    (from: number, onto: number): void => {
      const moved = braid?.crossings[from];
      const target = braid?.crossings[onto];
      if (moved && target && moved.strand === target.strand) void actions.move(moved, target.position);
      else if (moved && target) void actions.move(moved, -1);
    },
    [braid, actions],
  );
  const onInsertAfter = useCallback(
    (index: number): void => {
      const at = braid?.crossings[index];
      if (at) setAddingAt({ strand: at.strand, after: at.position + 1 });
    },
    [braid],
  );
  const rename = (): void => {
    void setTab("settings");
    setTimeout(() => document.querySelector<HTMLInputElement>('#tray input[aria-label="name"]')?.focus(), 60);
  };
  const onKey = (event: KeyboardEvent): boolean => {
    const control = event.ctrlKey || event.metaKey;
    const key = event.key.toLowerCase();
    if (control && key === "z") (event.shiftKey ? draft.redo : draft.undo)();
    else if (control && key === "y") draft.redo();
    else if (control && key === "c" && crossing) actions.copy(crossing);
    else if (event.altKey && crossing && (key === "arrowleft" || key === "arrowright"))
      void actions.move(crossing, crossing.position + (key === "arrowleft" ? -1 : 1));
    else if (control || event.altKey) return false;
    else if (key === "i" && addAt) setAddingAt("here");
    else if (key === "j" && addAt) setJoining(true);
    else if (key === "p") setPicking(true);
    else if (key === "o" && crossing) actions.switchOff(crossing);
    else if (key === "d" && crossing) actions.duplicate(crossing);
    else if (key === "n" && crossing) rename();
    else if (key === "delete" && crossing) actions.remove(crossing);
    else if (key === "escape" && pickedIds.size > 0) setPickedIds(new Set());
    else return false;
    return true;
  };
  const { changed } = draft;
  const offered = useMemo(
    (): readonly OfferedAction[] => [
      ...(addAt
        ? [
            { name: "Add a step", key: "i", act: () => setAddingAt("here") },
            { name: "Join a table", key: "j", act: () => setJoining(true) },
          ]
        : []),
      ...(crossing
        ? [
            {
              name: `Move “${crossing.name}” to the left`,
              key: "Alt ←",
              act: () => void actions.move(crossing, crossing.position - 1),
            },
            {
              name: `Move “${crossing.name}” to the right`,
              key: "Alt →",
              act: () => void actions.move(crossing, crossing.position + 1),
            },
            {
              name: `${crossing.off ? "Turn on" : "Turn off"} “${crossing.name}”`,
              key: "o",
              act: () => actions.switchOff(crossing),
            },
            { name: `Duplicate “${crossing.name}”`, key: "d", act: () => actions.duplicate(crossing) },
            { name: `Copy “${crossing.name}”`, key: "Ctrl C", act: () => actions.copy(crossing) },
            { name: `Delete “${crossing.name}”`, key: "Delete", act: () => actions.remove(crossing) },
          ]
        : []),
      { name: "Undo", key: "Ctrl Z", act: draft.undo },
      { name: "Redo", key: "Ctrl Shift Z", act: draft.redo },
      { name: "Follow a row", act: () => void setFollow("") },
      ...(changed ? [{ name: "Save version", act: askToSave }] : []),
    ],
    [addAt, crossing, actions, draft.undo, draft.redo, setFollow, changed, askToSave],
  );
  useOffer(offered);

  const description = pickedThreads[0] ? describeThread(pickedThreads[0], selected, measured.counts) : "";
  const current = threadId === null ? undefined : threads.get(threadId);
  const counting =
    measured.done < measured.total
      ? `counting rows: ${measured.done} of ${measured.total} places`
      : "exact row counts";
  return (
    <div className="flex h-[calc(100vh-49px-56px-var(--tour))] min-h-[520px] flex-col">
      <ToolLine
        counting={counting}
        file={file || !braid}
        follow={follow !== null}
        version={version.number}
        onAdd={() => {
          setAddingAt("here");
        }}
        onJoin={() => setJoining(true)}
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
              onPick={(columns) => setPickedIds(new Set(columns.map((column) => column.thread)))}
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
              <BraidView
                braid={braid}
                measured={measured}
                selected={selected}
                onSelect={(index) => {
                  const at = braid.crossings[index];
                  if (at) select({ strand: at.strand, after: at.position + 1 });
                }}
                current={threadId}
                picked={pickedIds}
                onThread={onThread}
                onRange={(ids, last) => {
                  void setThreadId(last);
                  setPickedIds((now) => new Set([...now, ...ids]));
                }}
                onDrop={onDrop}
                onInsertAfter={onInsertAfter}
                onBeginning={(strand) => setAddingAt({ strand, after: 0 })}
                onCopyStrand={actions.copyStrand}
                onKey={onKey}
                onPaste={(text) => {
                  if (addAt) actions.paste(addAt, text);
                }}
              />
              <p className="sr-only" aria-live="polite">
                {crossing && `Step ${crossing.name}. `}
                {current && describeThread(current, selected, measured.counts)}
              </p>
              {pickedThreads.length > 0 && (
                <VerbLine
                  picked={pickedColumns}
                  place={about?.place}
                  about={description}
                  threads={pickedThreads}
                  onVerb={(kind) => {
                    if (about) insert(kind, about.place);
                  }}
                  onMore={() => {
                    if (about) setAddingAt(about.place);
                  }}
                  onMark={(known) =>
                    actions.mark(
                      pickedThreads.map((each) => each.name),
                      known,
                    )
                  }
                  onLeaveOut={(out) =>
                    actions.leaveOut(
                      pickedThreads.map((each) => each.name),
                      out,
                    )
                  }
                  onRole={(role) =>
                    void actions.giveRole(
                      pickedThreads.map((thread) => thread.name),
                      role,
                    )
                  }
                  onClear={() => setPickedIds(new Set())}
                />
              )}
              {follow !== null ? (
                <FollowRow value={follow} onValue={(value) => void setFollow(value)} />
              ) : (
                <Tray
                  crossing={crossing}
                  isAwaiting={isAwaiting}
                  focusForm={focusForm}
                  onFocused={onFocused}
                  touched={touched}
                  thread={current?.name}
                  actions={actions}
                  onRename={rename}
                />
              )}
            </>
          ) : (
            <div className="mx-auto w-full max-w-3xl px-5 py-8">
              <h2 className="mb-3">The file is not a valid pipeline yet, so the Braid cannot be drawn.</h2>
              <Problems lines problems={problems} />
            </div>
          )}
        </div>
        {(file || !braid) && (
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
      {adding && (
        <AddStep
          open
          onOpenChange={(open) => {
            if (!open) setAddingAt(undefined);
          }}
          picked={about && placeKey(about.place) === placeKey(adding) ? pickedColumns : []}
          where={
            adding.after === 0
              ? `at the start of ${adding.strand}`
              : `after step ${adding.after} of ${adding.strand}`
          }
          onChoose={(kind) => insert(kind, adding)}
        />
      )}
      {isJoining && braid && addAt && (
        <JoinTableDialog
          braid={braid}
          place={addAt}
          onClose={() => setJoining(false)}
          onJoin={(table, here) => addAtNow(addAt, (now) => actions.joinTable(table, now, here))}
        />
      )}
      {dialog}
    </div>
  );
}
