"use client";
import { useRouter } from "next/navigation";
import { startTransition, useCallback, useEffect } from "react";

const RETRY_MILLISECONDS = 5000;

/**
 * Shown when a page could not be read at all. What broke on the server has a digest: mostly, the database is not there just now, and the
 * page comes back by itself when it is.
 */
export default function ErrorPage({
  error,
  reset,
}: {
  readonly error: Error & { digest?: string };
  readonly reset: () => void;
}) {
  const router = useRouter();
  const { digest } = error;
  // Both in one: shown again before it was read again, the page would only fail again.
  const retry = useCallback(
    () =>
      startTransition(() => {
        router.refresh();
        reset();
      }),
    [router, reset],
  );
  useEffect(() => {
    if (digest === undefined) return undefined;
    const timer = setInterval(retry, RETRY_MILLISECONDS);
    return () => clearInterval(timer);
  }, [digest, retry]);
  return (
    <div role="alert" className="page py-16">
      <h1>This page could not be loaded.</h1>
      <p className="mt-2">
        {digest === undefined
          ? "The page has a fault; please report it."
          : "The database may be restarting. The page retries every few seconds."}{" "}
        Nothing was changed.
      </p>
      {digest !== undefined && (
        <p className="mt-1 text-faded">
          In the web server’s log: <code>{digest}</code>.
        </p>
      )}
      <button type="button" className="press press-main mt-4" onClick={retry}>
        Try again
      </button>
    </div>
  );
}
