"use client";
import { useRouter } from "next/navigation";
import {
  renderQueryString,
  unstable_createAdapterProvider as createAdapterProvider,
  type unstable_AdapterInterface as AdapterInterface,
} from "nuqs/adapters/custom";
import { startTransition, useCallback, useMemo } from "react";
import { usePageSearch, writePageSearch } from "./page-search";

function useAddress(): AdapterInterface {
  const router = useRouter();
  const { pathname, search } = usePageSearch();
  const searchParams = useMemo(() => new URLSearchParams(search), [search]);
  const updateUrl = useCallback<AdapterInterface["updateUrl"]>(
    (next, { history: how, scroll, shallow }) => {
      writePageSearch(how, next.toString());
      if (scroll) window.scrollTo(0, 0);
      if (shallow) return;
      const address = `${location.pathname}${renderQueryString(next)}${location.hash}`;
      startTransition(() => router.replace(address, { scroll: false }));
    },
    [router],
  );
  return {
    searchParams,
    pathname,
    updateUrl,
    getSearchParamsSnapshot: () => new URLSearchParams(location.search),
    rateLimitFactor: 2,
  };
}

/** Lets pages keep their state in the address. */
export const AddressProvider = createAdapterProvider(useAddress);
