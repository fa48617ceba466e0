"use client";
import { usePathname, useRouter, useSearchParams } from "next/navigation";
import { renderQueryString, unstable_createAdapterProvider as createAdapterProvider, type unstable_AdapterInterface as AdapterInterface } from "nuqs/adapters/custom";
import { startTransition, useCallback, useEffect, useRef } from "react";

/**
 * What was last written into the address of a page, and what was written before it and has not come back from the router yet.
 * The router draws addresses anew when it gets to them, and while it does so puts the one it has just drawn back into the window:
 * a change that began from the window's address could bring back what had been left behind.
 */
let written: { readonly pathname: string; readonly search: string } | undefined;
let underWay: readonly string[] = [];

const forget = (): void => {
  written = undefined;
  underWay = [];
};

/** The present state of the address, as far as this page has decided it. */
function snapshot(): URLSearchParams {
  return new URLSearchParams(written?.pathname === location.pathname ? written.search : location.search);
}

function useAddress(): AdapterInterface {
  const router = useRouter();
  const pathname = usePathname();
  const searchParams = useSearchParams();
  const search = searchParams.toString();
  const first = useRef(true);
  useEffect(() => {
    // What appears later than the first change must not take the address of before for somebody else's.
    if (first.current) {
      first.current = false;
      return;
    }
    // An address that nobody here has written comes from a link or from going back.
    if (written?.pathname !== pathname || !underWay.includes(search)) forget();
    else underWay = underWay.slice(underWay.indexOf(search));
  }, [pathname, search]);
  useEffect(() => {
    window.addEventListener("popstate", forget);
    return () => window.removeEventListener("popstate", forget);
  }, []);
  const updateUrl = useCallback<AdapterInterface["updateUrl"]>((next, { history: how, scroll, shallow }) => {
    written = { pathname: location.pathname, search: next.toString() };
    underWay = [...underWay, written.search];
    const url = `${location.origin}${location.pathname}${renderQueryString(next)}${location.hash}`;
    startTransition(() => {
      if (how === "push") history.pushState(null, "", url);
      else history.replaceState(null, "", url);
      if (scroll) window.scrollTo(0, 0);
      if (!shallow) router.replace(url, { scroll: false });
    });
  }, [router]);
  return { searchParams: new URLSearchParams(search), pathname, updateUrl, getSearchParamsSnapshot: snapshot, rateLimitFactor: 2 };
}

/** Lets pages keep their state in the address. */
export const AddressProvider = createAdapterProvider(useAddress);
