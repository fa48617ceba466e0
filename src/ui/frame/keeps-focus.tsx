"use client";
import { usePathname } from "next/navigation";
import { useEffect, useRef } from "react";

const FOCUSABLE =
  "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex='-1'])";
/** The main action of a page, where it can be taken now. */
const MAIN_ACTION = "#main .press-main:not(:disabled)";
/** Of a pipeline, the stage after the one that is open. */
const NEXT_STAGE = "#main nav a[aria-current='page'] + a";

/** Whether the focus cannot be on an element: it went away, or cannot be used now. */
const isGone = (element: Element): boolean => !element.isConnected || element.matches(":disabled");
/** Whether an element that cannot be used now will be again, as soon as what it began is done. */
const isBusy = (element: Element): boolean =>
  element.isConnected && element.getAttribute("aria-busy") === "true";
const PAUSE_MILLISECONDS = 60;
const hasNothing = (): boolean => document.activeElement === null || document.activeElement === document.body;
const isShown = (element: Element): boolean => element.getClientRects().length > 0;

/**
 * The next thing that can be done: the main action, else the next stage, else what follows the place that
 * was lost, else the page.
 */
function nextAction(lost: Element | undefined): HTMLElement | null {
  const wanted = [MAIN_ACTION, NEXT_STAGE].flatMap((selector) => [
    ...document.querySelectorAll<HTMLElement>(selector),
  ]);
  const found = wanted.find(isShown);
  if (found) return found;
  const page = document.getElementById("main");
  if (!lost?.isConnected) return page;
  const all = [...document.querySelectorAll<HTMLElement>(`#main :is(${FOCUSABLE})`)];
  const after = all.find(
    (element) => (lost.compareDocumentPosition(element) & Node.DOCUMENT_POSITION_FOLLOWING) > 0,
  );
  return after ?? page;
}

/**
 * Keeps the keyboard where the work is: when the control that had the focus goes away or can no longer be
 * used, since its form was
 * saved or its page was left, the focus goes to the next action. Whoever takes the focus away from
 * everything is left alone.
 */
export function KeepsFocus() {
  const path = usePathname();
  const last = useRef<Element>(undefined);
  const byKey = useRef(false);
  useEffect(() => {
    const move = (): void => {
      const lost = last.current;
      // A dialog keeps the focus within itself.
      if (!lost || !hasNothing() || isBusy(lost) || document.querySelector("[role=dialog]")) return;
      const next = isGone(lost) ? nextAction(lost) : (lost as HTMLElement);
      next?.focus({ preventScroll: !byKey.current });
    };
    const onIn = ({ target }: FocusEvent): void => {
      if (target instanceof Element) last.current = target;
    };
    const onOut = ({ target, relatedTarget }: FocusEvent): void => {
      if (relatedTarget !== null || !(target instanceof Element)) return;
      // Whether it went away by itself shows only afterwards.
      setTimeout(() => {
        if (last.current === target && !isGone(target) && hasNothing()) last.current = undefined;
      });
    };
    const onKey = (): void => void (byKey.current = true);
    const onPointer = (): void => void (byKey.current = false);
    // A dialog that closes gives the focus back by itself, a moment later.
    let timer: ReturnType<typeof setTimeout> | undefined;
    const observer = new MutationObserver(() => {
      clearTimeout(timer);
      timer = setTimeout(move, PAUSE_MILLISECONDS);
    });
    observer.observe(document.body, {
      childList: true,
      subtree: true,
      attributes: true,
      attributeFilter: ["disabled", "aria-busy"],
    });
    document.addEventListener("focusin", onIn);
    document.addEventListener("focusout", onOut);
    document.addEventListener("keydown", onKey, true);
    document.addEventListener("pointerdown", onPointer, true);
    return () => {
      clearTimeout(timer);
      observer.disconnect();
      document.removeEventListener("focusin", onIn);
      document.removeEventListener("focusout", onOut);
      document.removeEventListener("keydown", onKey, true);
      document.removeEventListener("pointerdown", onPointer, true);
    };
  }, []);
  const shown = useRef(path);
  useEffect(() => {
    if (shown.current === path) return;
    shown.current = path;
    // A link above the page is still there: its page is what one goes on with.
    if (document.activeElement?.closest("header")) nextAction(undefined)?.focus({ preventScroll: true });
  }, [path]);
  return null;
}
