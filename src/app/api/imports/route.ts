import { randomUUID } from "node:crypto";
import { rm } from "node:fs/promises";
import path from "node:path";
import { problem, ProblemError } from "@/core/problem";
import { problemsOf } from "@/runs/failure";
import { uploadsFolder } from "@/runs/import/job";
import { sendImport } from "@/runs/queue";
import { appContext, appQueue } from "@/server/context";
import { problemResponse } from "@/server/pipelines";
import { keepUpload } from "@/server/upload";
import { addImport } from "@/store/imports";

/** Takes a file as the body of the request, a piece at a time, and orders a look at it. */
export async function POST(request: Request): Promise<Response> {
  const name = path.basename(new URL(request.url).searchParams.get("name") ?? "");
  if (name === "" || !request.body)
    return problemResponse([problem("no_file", "No file came.", "Choose a file.")], 400);
  const id = randomUUID();
  const file = path.join(uploadsFolder(), id);
  try {
    const bytes = await keepUpload(request, file);
    const { store } = await appContext();
    const row = await addImport(store.db, { id, name, path: file, bytes });
    await sendImport(await appQueue(), row.id);
    return Response.json({ id: row.id });
  } catch (error) {
    await rm(file, { force: true });
    if (error instanceof ProblemError) return problemResponse(error.problems, 413);
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
