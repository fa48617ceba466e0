"use client";
import { Upload } from "lucide-react";
import { useRouter } from "next/navigation";
import { useRef, useState, type DragEvent } from "react";
import { formatBytes } from "@/core/format/numbers";
import { DefinitionPreview } from "./definition-preview";
import { filesDropped, sendFile } from "./send-file";

/** Files that can be sent, by the end of their names; others in a folder are passed over. */
const ACCEPTED = /\.(csv|tsv|txt|jsonl|ndjson|parquet|xlsx|xlsm|gz|zip)$/i;
const ACCEPT = ".csv,.tsv,.txt,.jsonl,.ndjson,.parquet,.xlsx,.xlsm,.gz,.zip,.sql";

interface Sending {
  readonly name: string;
  readonly place: number;
  readonly all: number;
  readonly size: number;
  readonly sent: number;
}

/** Takes files and folders by drop or by choosing. A file of CREATE TABLE statements is shown before its tables are made. */
export function DropZone() {
  const router = useRouter();
  const [files, folder] = [useRef<HTMLInputElement>(null), useRef<HTMLInputElement>(null)];
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<Sending>();
  const [failure, setFailure] = useState<string>();
  const [definitions, setDefinitions] = useState<{ readonly name: string; readonly text: string }>();
  const take = async (chosen: readonly File[]): Promise<void> => {
    setFailure(undefined);
    const [statements] = chosen.filter(({ name }) => /\.sql$/i.test(name));
    if (statements) return setDefinitions({ name: statements.name, text: await statements.text() });
    const wanted = chosen.length === 1 ? chosen : chosen.filter(({ name }) => ACCEPTED.test(name));
    if (chosen.length > 0 && wanted.length === 0) return setFailure("None of these files can be imported.");
    await send(wanted);
  };
  const send = async (wanted: readonly File[]): Promise<void> => {
    const ids: string[] = [];
    const left: string[] = [];
    try {
      for (const [place, file] of wanted.entries()) {
        const progress = { name: file.name, place, all: wanted.length, size: file.size };
        setSending({ ...progress, sent: 0 });
        const sent = await sendFile(file, (bytes) => setSending({ ...progress, sent: bytes }));
        ids.push(...sent.ids);
        left.push(...sent.left);
      }
    } catch (error) {
      setFailure(error instanceof Error ? error.message : String(error));
    }
    setSending(undefined);
    const more = left.length > 0 ? `&left=${encodeURIComponent(left.slice(0, 20).join(", "))}` : "";
    if (ids.length === 1 && left.length === 0) router.push(`/tables/import/${ids[0]!}`);
    else if (ids.length > 0) router.push(`/tables/import/several?ids=${ids.join(",")}${more}`);
  };
  const drop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    void filesDropped(event.dataTransfer.items).then(take);
  };
  if (definitions) return <DefinitionPreview {...definitions} onLeave={() => setDefinitions(undefined)} />;
  return (
    <div>
      <div
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
        className={`rounded border-2 border-dashed px-6 py-12 text-center ${over ? "border-woad bg-paper" : "border-rule"}`}
      >
        {sending ? (
          <SendingLine sending={sending} />
        ) : (
          <>
            <Upload size={22} className="mx-auto text-faded" aria-hidden />
            <p className="mt-2 text-section font-medium">Drop files or folders here</p>
            <p className="mt-1 text-faded">
              CSV, TSV, JSON Lines, Parquet, Excel (xlsx), also gzip or zip; or CREATE TABLE statements (sql).
              You review everything before it is loaded.
            </p>
            <p className="mt-4 flex justify-center gap-3">
              <button type="button" className="press press-main" onClick={() => files.current?.click()}>
                Choose files
              </button>
              <button type="button" className="press" onClick={() => folder.current?.click()}>
                Choose a folder
              </button>
            </p>
            <input
              ref={files}
              type="file"
              multiple
              aria-label="File to import"
              className="sr-only"
              accept={ACCEPT}
              onChange={(event) => void take([...(event.target.files ?? [])])}
            />
            <input
              ref={folder}
              type="file"
              tabIndex={-1}
              aria-label="Folder to import"
              className="sr-only"
              {...{ webkitdirectory: "" }}
              onChange={(event) => void take([...(event.target.files ?? [])])}
            />
          </>
        )}
      </div>
      {failure && (
        <p role="alert" className="mt-3 text-madder">
          {failure}
        </p>
      )}
      <p className="mt-3 text-caption text-faded">
        To load a folder with CREATE TABLE statements and one data file per table, use{" "}
        <code>./ravlen import FOLDER</code>.
      </p>
    </div>
  );
}

/** Which file is on its way, and how far it is. */
function SendingLine({ sending }: { readonly sending: Sending }) {
  const { name, place, all, size, sent } = sending;
  return (
    <p role="status">
      Sending {name}
      {all > 1 ? `, ${place + 1} of ${all} files` : ""}: {formatBytes(sent)} of {formatBytes(size)}
      <progress className="mx-auto mt-2 block w-80" max={Math.max(1, size)} value={sent} />
    </p>
  );
}
