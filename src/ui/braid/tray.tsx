"use client";
import { Tabs } from "radix-ui";
import { useQueryState } from "nuqs";
import { memo, useEffect, useState } from "react";
import type { Crossing } from "@/core/plan/braid";
import { fetchJson } from "../basic/fetch-json";
import { SqlText } from "../basic/sql-text";
import { RowsAfter, type PreviewPage } from "./tray-rows";
import { Learned, Settings } from "./tray-values";

interface Preview {
  readonly sql: string;
  readonly learned: unknown;
  readonly page: PreviewPage;
}

const TABS = [["rows", "Rows after"], ["settings", "Settings"], ["learned", "Learned"], ["sql", "SQL"]] as const;

/** Drawn apart from the Braid above: otherwise every frame of its scrolling would draw all these rows again. */
const OWN_LAYER = "bg-linen will-change-transform";

interface Props {
  readonly pipeline: string;
  readonly version: number;
  readonly crossing: Crossing | undefined;
  readonly touched: readonly string[];
  readonly thread: string | undefined;
}

/** Beneath the Braid: what the selected step is set to, the rows after it, what it learned, its SQL. */
export const Tray = memo(function Tray({ pipeline, version, crossing, touched, thread }: Props) {
  const [tab, setTab] = useQueryState("tray", { defaultValue: "rows" });
  const [preview, setPreview] = useState<Preview>();
  const [failure, setFailure] = useState<string>();
  const strand = crossing?.strand;
  const after = crossing ? crossing.position + 1 : 0;
  useEffect(() => {
    if (strand === undefined) return undefined;
    const stop = new AbortController();
    setPreview(undefined);
    setFailure(undefined);
    fetchJson<Preview>(`/api/pipelines/${encodeURIComponent(pipeline)}/preview?version=${version}&strand=${encodeURIComponent(strand)}&after=${after}`, { signal: stop.signal })
      .then(setPreview)
      .catch((error: unknown) => {
        if (!stop.signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
      });
    return () => stop.abort();
  }, [pipeline, version, strand, after]);
  if (!crossing) return <div className="h-16 shrink-0 px-4 py-3 text-faded">Choose a step above, or press → in the Braid, to see its settings, the rows after it, what it learned and its SQL.</div>;
  return (
    <Tabs.Root value={tab} onValueChange={(value) => void setTab(value)} id="tray" tabIndex={-1} className={`flex h-[272px] shrink-0 flex-col outline-none ${OWN_LAYER}`} data-testid="tray">
      <div className="flex items-center gap-4 border-b border-rule px-4">
        <h2 className="min-w-0 truncate py-2"><span className="text-faded">{crossing.strand} · {crossing.position + 1}</span> {crossing.name}</h2>
        <Tabs.List className="ml-auto flex" aria-label="About this step">
          {TABS.map(([value, name]) => <Tabs.Trigger key={value} value={value} className="border-b-2 border-transparent px-3 py-2 text-faded data-[state=active]:border-madder data-[state=active]:font-semibold data-[state=active]:text-ink">{name}</Tabs.Trigger>)}
        </Tabs.List>
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {failure && <p role="alert" className="px-4 py-3 text-madder">This step could not be previewed. {failure}</p>}
        <Tabs.Content value="rows" tabIndex={-1} className="h-full">{preview ? <RowsAfter page={preview.page} touched={touched} thread={thread} /> : !failure && <p className="px-4 py-3 text-faded">reading rows …</p>}</Tabs.Content>
        <Tabs.Content value="settings" className="px-4 py-3"><Settings sentence={crossing.sentence} note={crossing.note} settings={crossing.settings} /></Tabs.Content>
        <Tabs.Content value="learned" className="px-4 py-3">{!crossing.learns ? <p className="text-faded">This step learns nothing; it does the same to every row.</p> : preview ? <Learned value={preview.learned} /> : !failure && <p className="text-faded">asking the training rows …</p>}</Tabs.Content>
        <Tabs.Content value="sql">{preview ? <SqlText sql={preview.sql} /> : !failure && <p className="px-4 py-3 text-faded">compiling …</p>}</Tabs.Content>
      </div>
    </Tabs.Root>
  );
});
