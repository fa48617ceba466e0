"use client";
import { useState } from "react";
import { CopyButton } from "../basic/copy-button";
import { usePosted } from "../queries/use-posted";
import { grantWish, type ConnectionDraft } from "./connection-draft";

/** Names are asked for once nobody types any more. */
const PAUSE_MILLISECONDS = 250;

/** The statements that a superuser of the warehouse runs first: the least that both roles need. */
export function GrantsPanel({ draft }: { readonly draft: ConnectionDraft }) {
  const [read, setRead] = useState("public");
  const [owners, setOwners] = useState("");
  const { value, failure } = usePosted<{ readonly script: string }>(
    "/api/grants",
    grantWish(draft, { read, owners }),
    { pauseMilliseconds: PAUSE_MILLISECONDS, keepsLast: true },
  );
  return (
    <aside aria-label="Grants" className="min-w-0">
      <h2 className="mb-1">Roles not created yet?</h2>
      <p className="mb-3 text-caption text-faded">
        Run these statements as a warehouse superuser. They grant both roles exactly what they need and can be
        run repeatedly.
      </p>
      <label className="mb-2 block text-caption">
        Schemas to read
        <input
          className="field mt-0.5 block w-full"
          value={read}
          onChange={(event) => setRead(event.target.value)}
        />
      </label>
      <label className="mb-3 block text-caption">
        Roles that create tables there, so that future tables can be read too
        <input
          className="field mt-0.5 block w-full"
          value={owners}
          onChange={(event) => setOwners(event.target.value)}
        />
      </label>
      <div className="mb-1 flex min-h-8 items-center">
        {failure === undefined ? (
          value && <CopyButton text={value.script} what="The SQL" />
        ) : (
          <p role="status" className="text-caption text-madder">
            {failure}
          </p>
        )}
      </div>
      <pre
        tabIndex={0}
        aria-label="Statements"
        className="figure h-96 overflow-auto border border-rule bg-paper p-3 text-caption leading-relaxed"
      >
        {failure === undefined ? value?.script : ""}
      </pre>
    </aside>
  );
}
