import { existsSync } from "node:fs";
import { rm } from "node:fs/promises";
import path from "node:path";
import { problem } from "@/core/problem";
import { claimImport, endImport, noteLook, noteProgress, type ImportRow } from "@/store/imports";
import { homeFolder, type Context } from "../context";
import { problemsOf } from "../failure";
import { loadFile, MisfitError } from "./load";
import { lookAtFile } from "./look-at-file";

const NOTE_MILLISECONDS = 400;

/** Folder for uploaded files and rejects. */
export const uploadsFolder = (): string => path.join(homeFolder(), "uploads");
export const rejectsPath = (id: string): string => path.join(uploadsFolder(), `${id}.rejects.csv`);

/** Notes progress now and then, and hears whether to stop. */
function watcher(
  context: Context,
  id: string,
  stop: AbortController,
): {
  readonly onProgress: (bytes: number, rows: number, rejected?: number) => void;
  readonly end: () => void;
} {
  let now = { bytes: 0, rows: 0, rejected: 0 };
  const note = async (): Promise<void> => {
    const cancel = await noteProgress(context.store.db, id, now.bytes, now.rows, now.rejected).catch(
      () => false,
    );
    if (cancel) stop.abort();
  };
  const timer = setInterval(() => void note(), NOTE_MILLISECONDS);
  return {
    onProgress: (bytes, rows, rejected = 0) => {
      now = { bytes, rows, rejected };
    },
    end: () => clearInterval(timer),
  };
}

/** Does the stage of an import that waits: looks at the file, or loads it. */
export async function doImport(context: Context, id: string, worker: string): Promise<void> {
  const claimed = await claimImport(context.store.db, id, worker);
  if (!claimed) return;
  const stop = new AbortController();
  const watch = watcher(context, id, stop);
  const { db } = context.store;
  try {
    if (!existsSync(claimed.path))
      await endImport(db, id, {
        state: "failed",
        problems: [problem("file_gone", `The file “${claimed.name}” no longer exists.`, "Upload it again.")],
      });
    else if (claimed.state === "looking")
      await noteLook(
        db,
        id,
        await lookAtFile(claimed.path, claimed.name, claimed.wishes, watch.onProgress, stop.signal),
      );
    else await load(context, claimed, stop.signal, watch.onProgress);
  } catch (error) {
    if (stop.signal.aborted) await endImport(db, id, { state: "cancelled", problems: [] });
    else
      await endImport(db, id, {
        state: "failed",
        problems: problemsOf(error),
        ...(error instanceof MisfitError ? { misfits: error.misfits, rejected: error.misfits.length } : {}),
      });
  } finally {
    watch.end();
  }
}

async function load(
  context: Context,
  claimed: ImportRow,
  signal: AbortSignal,
  onProgress: (bytes: number, rows: number, rejected: number) => void,
): Promise<void> {
  if (!claimed.look || !claimed.choices) throw new Error("an import must be analysed before it is loaded");
  const loaded = await loadFile(context.warehouse, claimed.path, claimed.look, claimed.choices, {
    onProgress,
    signal,
    rejectsFile: rejectsPath(claimed.id),
  });
  await endImport(context.store.db, claimed.id, {
    state: "done",
    rows: loaded.rows,
    rejected: loaded.rejected,
    misfits: loaded.misfits,
  });
  if (path.dirname(claimed.path) === uploadsFolder()) await rm(claimed.path, { force: true });
}
