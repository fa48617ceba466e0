"use client";
import { usePageRefresh, useRefreshEvery } from "./page-refresh";

const RETRY_MILLISECONDS = 5000;

/** Stands in the place of a page that cannot be read without the warehouse, until it answers again. */
export function WarehouseAway() {
  const refresh = usePageRefresh();
  useRefreshEvery(RETRY_MILLISECONDS);
  return (
    <div role="alert" className="page py-16">
      <h1>The warehouse is unreachable.</h1>
      <p className="mt-2">
        This page needs the warehouse and retries every few seconds. Running jobs wait and continue when it is
        back. Nothing was changed.
      </p>
      <button type="button" className="press press-main mt-4" onClick={refresh}>
        Try again
      </button>
    </div>
  );
}
