"use client";
import { useEffect, useMemo, useState, type KeyboardEvent } from "react";
import type { Draft } from "../draft/use-draft";
import { useOffer, type OfferedAction } from "../frame/offered-actions";
import { commandOf, type BraidCommand } from "./braid-keys";
import type { Adding } from "./use-adding";
import type { BraidActions } from "./use-braid-actions";
import type { BraidSelection } from "./use-braid-selection";

interface Parts {
  readonly draft: Draft;
  readonly selection: BraidSelection;
  /** Whether the selected step was just made, and is not drawn yet. */
  readonly isAwaiting: boolean;
  readonly adding: Adding;
  readonly actions: BraidActions;
  readonly onPick: () => void;
  readonly onRename: () => void;
  readonly onFollow: () => void;
  readonly onSave: () => void;
}

/** What is done to the selected step. */
const ON_STEP: ReadonlySet<BraidCommand> = new Set([
  "copy",
  "moveLeft",
  "moveRight",
  "switchOff",
  "duplicate",
  "rename",
  "remove",
]);

type Commands = Partial<Record<BraidCommand, () => void>>;

/** What can be done now, by command; what cannot is missing. */
function commandsOf({ draft, selection, adding, actions, onPick, onRename }: Parts): Commands {
  const { crossing, addAt, pickedIds, pick } = selection;
  return {
    undo: draft.undo,
    redo: draft.redo,
    pick: onPick,
    ...(addAt ? { add: () => adding.open("here"), join: () => adding.setJoining(true) } : {}),
    ...(pickedIds.size > 0 ? { clear: () => pick([]) } : {}),
    ...(crossing
      ? {
          copy: () => actions.copy(crossing),
          moveLeft: () => void actions.move(crossing, crossing.position - 1),
          moveRight: () => void actions.move(crossing, crossing.position + 1),
          switchOff: () => actions.switchOff(crossing),
          duplicate: () => actions.duplicate(crossing),
          rename: onRename,
          remove: () => actions.remove(crossing),
        }
      : {}),
  };
}

/**
 * The commands of the Braid: by key on it, and in the command box.
 * @returns what a key on the Braid does; whether it did anything
 */
export function useBraidCommands(parts: Parts): (event: KeyboardEvent) => boolean {
  const { draft, selection, isAwaiting, adding, actions, onFollow, onSave } = parts;
  const { crossing, addAt } = selection;
  const { open, setJoining } = adding;
  const { undo, redo, changed } = draft;
  const offered = useMemo((): readonly OfferedAction[] => {
    const onStep = crossing
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
      : [];
    const onPlace = addAt
      ? [
          { name: "Add a step", key: "i", act: () => open("here") },
          { name: "Join a table", key: "j", act: () => setJoining(true) },
        ]
      : [];
    return [
      ...onPlace,
      ...onStep,
      { name: "Undo", key: "Ctrl Z", act: undo },
      { name: "Redo", key: "Ctrl Shift Z", act: redo },
      { name: "Follow a row", act: onFollow },
      ...(changed ? [{ name: "Save version", act: onSave }] : []),
    ];
  }, [addAt, crossing, actions, open, setJoining, undo, redo, onFollow, changed, onSave]);
  useOffer(offered);
  // Keys for a step that is not drawn yet wait until it is.
  const [waiting, setWaiting] = useState<readonly BraidCommand[]>([]);
  useEffect(() => {
    const [next, ...later] = waiting;
    if (isAwaiting || next === undefined) return;
    setWaiting(later);
    commandsOf(parts)[next]?.();
  }, [isAwaiting, waiting, parts]);
  return (event) => {
    const command = commandOf(event);
    if (command && isAwaiting && ON_STEP.has(command)) {
      setWaiting((now) => [...now, command]);
      return true;
    }
    const act = command && commandsOf(parts)[command];
    act?.();
    return act !== undefined;
  };
}
