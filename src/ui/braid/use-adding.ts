"use client";
import { useQueryState } from "nuqs";
import { useCallback, useRef, useState } from "react";
import { placeNow, type Place } from "./places";
import type { BraidActions } from "./use-braid-actions";
import type { BraidSelection } from "./use-braid-selection";

export interface Adding {
  /** Where a step is being chosen for. */
  readonly at: Place | undefined;
  readonly isJoining: boolean;
  readonly setJoining: (isJoining: boolean) => void;
  /** Begins to choose a step: for a place, or for where the selection is by then. */
  readonly open: (at: Place | "here") => void;
  readonly close: () => void;
  /** Inserts a step of a kind. */
  readonly insert: (kind: string, place: Place) => void;
  /** Adds something at a place, or where that place has moved to meanwhile. */
  readonly addAtNow: (place: Place, add: (now: Place) => void) => void;
  /** Whether the form of the step that was added last is to have the focus. */
  readonly isFormFocused: boolean;
  readonly onFormFocused: () => void;
}

/**
 * Adding steps to the Braid.
 * @param surveyed the text that the drawing is of
 */
export function useAdding(
  selection: BraidSelection,
  actions: Pick<BraidActions, "insert">,
  surveyed: string,
): Adding {
  const [, setTab] = useQueryState("tray");
  const [wanted, setWanted] = useState<Place | "here">();
  const [isJoining, setJoining] = useState(false);
  const [isFormFocused, setFormFocused] = useState(false);
  const { about, addAt, pick, step } = selection;
  // The drawing is of a moment ago while it is made again: whoever adds steps faster than that still gets them in order.
  const added = useRef({ to: surveyed, places: [] as Place[] });
  const addAtNow = (place: Place, add: (now: Place) => void): void => {
    if (added.current.to !== surveyed) added.current = { to: surveyed, places: [] };
    add(placeNow(place, added.current.places, step));
    added.current.places.push(place);
  };
  return {
    at: wanted === "here" ? addAt : wanted,
    isJoining,
    setJoining,
    open: useCallback((at: Place | "here") => setWanted(at), []),
    close: useCallback(() => setWanted(undefined), []),
    insert: (kind, place) => {
      addAtNow(place, (now) => actions.insert(kind, now, about?.names ?? []));
      pick([]);
      setFormFocused(true);
      void setTab("settings");
    },
    addAtNow,
    isFormFocused,
    onFormFocused: useCallback(() => setFormFocused(false), []),
  };
}
