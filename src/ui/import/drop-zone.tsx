"use client";
import { formatBytes } from "@/core/format/numbers";
import { Upload } from "lucide-react";
import { useRouter } from "next/navigation";
import { useRef, useState, type DragEvent } from "react";
import { toast } from "sonner";
import { makeTables } from "@/server/import-actions";

/** Sends a file as it is, and says how far it is. */
function upload(file: File, onProgress: (sent: number) => void): Promise<string> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/imports?name=${encodeURIComponent(file.name)}`);
    request.upload.onprogress = (event) => onProgress(event.loaded);
    request.onerror = () => reject(new Error("The connection was lost."));
    request.onload = () => {
      const answer = JSON.parse(request.responseText || "{}") as {
        readonly id?: string;
        readonly problems?: readonly { readonly message: string; readonly hint?: string }[];
      };
      if (request.status === 200 && answer.id) resolve(answer.id);
      else
        reject(
          new Error(
            answer.problems?.map((each) => `${each.message} ${each.hint ?? ""}`).join(" ") ??
              `The server answered ${request.status}.`,
          ),
        );
    };
    request.send(file);
  });
}

/** Takes a file by drop or by choosing. A file of CREATE TABLE statements makes its tables at once. */
export function DropZone() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<{
    readonly name: string;
    readonly size: number;
    readonly sent: number;
  }>();
  const [failure, setFailure] = useState<string>();
  const take = async (file: File | undefined): Promise<void> => {
    if (!file) return;
    setFailure(undefined);
    try {
      if (/\.sql$/i.test(file.name)) {
        const outcome = await makeTables(await file.text());
        if (!outcome.ok)
          throw new Error(
            outcome.problems
              .map(
                (each) =>
                  `${each.location?.line ? `Line ${each.location.line}: ` : ""}${each.message} ${each.hint ?? ""}`,
              )
              .join(" "),
          );
        toast.success(`Made ${outcome.value.join(", ")}.`);
        router.push("/tables");
        return;
      }
      setSending({ name: file.name, size: file.size, sent: 0 });
      router.push(
        `/tables/import/${await upload(file, (sent) => setSending({ name: file.name, size: file.size, sent }))}`,
      );
    } catch (error) {
      setFailure(error instanceof Error ? error.message : String(error));
      setSending(undefined);
    }
  };
  const drop = (event: DragEvent): void => {
    event.preventDefault();
    setOver(false);
    void take(event.dataTransfer.files[0]);
  };
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
          <p role="status">
            Sending {sending.name}: {formatBytes(sending.sent)} of {formatBytes(sending.size)}
            <progress
              className="mx-auto mt-2 block w-80"
              max={Math.max(1, sending.size)}
              value={sending.sent}
            />
          </p>
        ) : (
          <>
            <Upload size={22} className="mx-auto text-faded" aria-hidden />
            <p className="mt-2 text-lg font-medium">Drop a file here</p>
            <p className="mt-1 text-faded">
              CSV, TSV, JSON Lines, Parquet, Excel (xlsx), or CREATE TABLE statements (sql). Nothing is loaded
              before you have seen what was found.
            </p>
            <button type="button" className="press press-main mt-4" onClick={() => input.current?.click()}>
              Choose a file
            </button>
            <input
              ref={input}
              type="file"
              aria-label="File to import"
              className="sr-only"
              accept=".csv,.tsv,.txt,.jsonl,.ndjson,.parquet,.xlsx,.xlsm,.sql"
              onChange={(event) => void take(event.target.files?.[0])}
            />
          </>
        )}
      </div>
      {failure && (
        <p role="alert" className="mt-3 text-madder">
          {failure}
        </p>
      )}
      <p className="mt-3 text-sm text-faded">
        A whole folder, with a file of CREATE TABLE statements and a data file for each table, loads with{" "}
        <code>./ravlen import FOLDER</code>.
      </p>
    </div>
  );
}
