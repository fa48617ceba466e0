"use client";

/** Shown when a page could not be read at all. What broke on the server has a digest: mostly, the database is not there just now. */
export default function ErrorPage({
  error,
  reset,
}: {
  readonly error: Error & { digest?: string };
  readonly reset: () => void;
}) {
  return (
    <div role="alert" className="mx-auto max-w-3xl px-5 py-16">
      <h1>This page could not be read.</h1>
      <p className="mt-2">
        {error.digest
          ? "Most often the database is just restarting."
          : "Something in the page itself broke; please report it."}{" "}
        Nothing was changed.
      </p>
      {error.digest && (
        <p className="mt-1 text-faded">
          In the web server’s log this is <code>{error.digest}</code>.
        </p>
      )}
      <button type="button" className="press press-main mt-4" onClick={reset}>
        Try again
      </button>
    </div>
  );
}
