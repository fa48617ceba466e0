"use client";
import { usePathname, useSearchParams } from "next/navigation";
import { renderQueryString } from "nuqs/adapters/custom";
import { useLayoutEffect, useSyncExternalStore } from "react";

/**
 * The search part of an address that this page has written itself. The router does not learn of it: it refreshes
 * the address that it navigated to, and an answer for any other address makes it reload the whole document.
 */
interface WrittenSearch {
  readonly pathname: string;
  /** Where the router was when this was written. When that changes, the user has navigated elsewhere. */
  readonly base: string;
  readonly search: string;
}

type WriteHistory = History["pushState"];

let written: WrittenSearch | undefined;
/** The search part of the address that the router last rendered. */
let drawnSearch = "";
let unguarded: { readonly push: WriteHistory; readonly replace: WriteHistory } | undefined;
const listeners = new Set<() => void>();

function setWritten(next: WrittenSearch | undefined): void {
  if (written === next) return;
  written = next;
  for (const notify of listeners) notify();
}

function subscribe(notify: () => void): () => void {
  listeners.add(notify);
  return () => listeners.delete(notify);
}

const currentSearch = (): string => new URLSearchParams(location.search).toString();

const addressOf = (search: string): string =>
  `${location.origin}${location.pathname}${renderQueryString(new URLSearchParams(search))}${location.hash}`;

/** Whether an address is the router's own, on a page that has written another since. */
function isBase(address: string | URL | null | undefined): boolean {
  if (!address || !written) return false;
  const { pathname, searchParams } = new URL(address, location.href);
  return pathname === written.pathname && searchParams.toString() === written.base;
}

/** The router writes its own address after every render. Where the page has written another, that one stays. */
function guardHistory(): NonNullable<typeof unguarded> {
  if (unguarded) return unguarded;
  const push = history.pushState.bind(history);
  const replace = history.replaceState.bind(history);
  history.pushState = (state, title, address) => {
    setWritten(undefined);
    push(state, title, address);
  };
  history.replaceState = (state, title, address) =>
    replace(state, title, isBase(address) ? addressOf(written!.search) : address);
  // Going back and forward changes the address at once, and what the router shows only later.
  window.addEventListener("popstate", () => {
    const isHere = written?.pathname === location.pathname;
    setWritten(isHere ? { ...written!, search: currentSearch() } : undefined);
  });
  unguarded = { push, replace };
  return unguarded;
}

/**
 * Writes the search part of the address, without reading the page again.
 * @param how whether going back leads to the address of before
 */
export function writePageSearch(how: "push" | "replace", search: string): void {
  const write = guardHistory()[how];
  setWritten({ pathname: location.pathname, base: drawnSearch, search });
  // With the router's own state, the router takes this for a write of its own.
  write(history.state, "", addressOf(search));
}

/** The path of the page, and the search part of its address as the page has decided it. */
export function usePageSearch(): { readonly pathname: string; readonly search: string } {
  const pathname = usePathname();
  const base = useSearchParams().toString();
  const own = useSyncExternalStore(
    subscribe,
    () => written,
    () => undefined,
  );
  useLayoutEffect(() => {
    drawnSearch = base;
    if (written && (written.pathname !== pathname || written.base !== base)) setWritten(undefined);
  }, [pathname, base]);
  const isOwn = own?.pathname === pathname && own.base === base;
  return { pathname, search: isOwn ? own.search : base };
}
