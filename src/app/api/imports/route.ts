import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream } from "node:stream/web";
import { problem } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { uploadsFolder } from "@/runs/import/job";
import { sendImport } from "@/runs/queue";
import { appContext, appQueue } from "@/server/context";
import { problemResponse } from "@/server/pipelines";
import { addImport } from "@/store/imports";

/** Takes a file as the body of the request, a piece at a time, and orders a look at it. */
export async function POST(request: Request): Promise<Response> {
  const name = path.basename(new URL(request.url).searchParams.get("name") ?? "");
  if (name === "" || !request.body)
    return problemResponse([problem("no_file", "No file came.", "Choose a file.")], 400);
  const id = randomUUID();
  const file = path.join(uploadsFolder(), id);
  try {
    await mkdir(uploadsFolder(), { recursive: true });
    await pipeline(
      Readable.fromWeb(request.body as ReadableStream),
      createWriteStream(file, { mode: 0o600 }),
    );
    const { store } = await appContext();
    const row = await addImport(store.db, { id, name, path: file, bytes: (await stat(file)).size });
    await sendImport(await appQueue(), row.id);
    return Response.json({ id: row.id });
  } catch (error) {
    await rm(file, { force: true });
    const full = (error as { readonly code?: string }).code === "ENOSPC";
    return problemResponse(
      full
        ? [
            problem(
              "disk_full",
              "The disk of the server is full; the file was not kept.",
              "Free space, then choose the file again.",
            ),
          ]
        : problemsOf(error),
      full ? 507 : 500,
    );
  }
}
