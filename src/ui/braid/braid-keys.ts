import type { KeyboardEvent } from "react";

/** What can be asked of the Braid by a key. */
export type BraidCommand =
  | "undo"
  | "redo"
  | "copy"
  | "moveLeft"
  | "moveRight"
  | "add"
  | "join"
  | "pick"
  | "switchOff"
  | "duplicate"
  | "rename"
  | "remove"
  | "clear";

const PLAIN: Readonly<Record<string, BraidCommand>> = {
  i: "add",
  j: "join",
  p: "pick",
  o: "switchOff",
  d: "duplicate",
  n: "rename",
  delete: "remove",
  escape: "clear",
};
const WITH_CONTROL: Readonly<Record<string, BraidCommand>> = { y: "redo", c: "copy" };
const WITH_ALT: Readonly<Record<string, BraidCommand>> = { arrowleft: "moveLeft", arrowright: "moveRight" };

type Keys = Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey">;

/** @returns the command of a key, if it has one */
export function commandOf(event: Keys): BraidCommand | undefined {
  const key = event.key.toLowerCase();
  if (event.ctrlKey || event.metaKey) {
    if (key === "z") return event.shiftKey ? "redo" : "undo";
    return WITH_CONTROL[key];
  }
  return event.altKey ? WITH_ALT[key] : PLAIN[key];
}
