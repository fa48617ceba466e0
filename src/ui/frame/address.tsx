"use client";
import { usePathname, useRouter, useSearchParams } from "next/navigation";
import {
  renderQueryString,
  unstable_createAdapterProvider as createAdapterProvider,
  type unstable_AdapterInterface as AdapterInterface,
} from "nuqs/adapters/custom";
import { startTransition, useCallback, useEffect } from "react";

/**
 * What this page last wrote into its address. The router knows of it only later, and when an action of the server ends that began
 * before, it puts the address of that time back. Neither must undo what somebody has chosen since.
 */
interface Written {
  readonly pathname: string;
  readonly search: string;
  /** Addresses of this page that have been left behind: when the router shows one of them, it is late. */
  readonly left: ReadonlySet<string>;
  /** Length of the history at that time: following a link makes it grow, being late does not. */
  readonly length: number;
  readonly at: number;
}

/** Nothing that is late comes later than this, in milliseconds; a history that is full grows no longer, and then this tells the two apart. */
const LATEST = 30_000;

let written: Written | undefined;

const forget = (): void => {
  written = undefined;
};
const isLate = (pathname: string, search: string): boolean =>
  written?.pathname === pathname &&
  written.left.has(search) &&
  written.length === history.length &&
  Date.now() - written.at < LATEST;

const urlOf = (search: string): string =>
  `${location.origin}${location.pathname}${renderQueryString(new URLSearchParams(search))}${location.hash}`;

/** The present state of the address, as far as this page has decided it. */
const snapshot = (): URLSearchParams =>
  new URLSearchParams(written?.pathname === location.pathname ? written.search : location.search);

function useAddress(): AdapterInterface {
  const router = useRouter();
  const pathname = usePathname();
  const shown = useSearchParams().toString();
  const late = isLate(pathname, shown);
  const search = late ? written!.search : shown;
  useEffect(() => {
    if (written === undefined || written.search === shown) return;
    if (!isLate(pathname, shown)) return forget();
    const { search: wanted } = written;
    startTransition(() => history.replaceState(null, "", urlOf(wanted)));
  }, [pathname, shown]);
  useEffect(() => {
    window.addEventListener("popstate", forget);
    return () => window.removeEventListener("popstate", forget);
  }, []);
  const updateUrl = useCallback<AdapterInterface["updateUrl"]>(
    (next, { history: how, scroll, shallow }) => {
      const before = snapshot().toString();
      const wanted = next.toString();
      const left = new Set(written?.pathname === location.pathname ? written.left : []).add(before);
      left.delete(wanted);
      startTransition(() => {
        if (how === "push") history.pushState(null, "", urlOf(wanted));
        else history.replaceState(null, "", urlOf(wanted));
        written = {
          pathname: location.pathname,
          search: wanted,
          left,
          length: history.length,
          at: Date.now(),
        };
        if (scroll) window.scrollTo(0, 0);
        if (!shallow) router.replace(urlOf(wanted), { scroll: false });
      });
    },
    [router],
  );
  return {
    searchParams: new URLSearchParams(search),
    pathname,
    updateUrl,
    getSearchParamsSnapshot: snapshot,
    rateLimitFactor: 2,
  };
}

/** Lets pages keep their state in the address. */
export const AddressProvider = createAdapterProvider(useAddress);
