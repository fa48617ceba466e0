import { randomUUID } from "node:crypto";
import { rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import { z } from "zod";
import { problem, ProblemError } from "@/core/problem";
import { uploadsFolder } from "@/runs/import/job";
import { unpack } from "@/runs/import/unpack";
import { sendImport } from "@/runs/queue";
import { idsText, nameInput } from "@/server/answer/inputs";
import { problemResponse, route } from "@/server/answer/route";
import { appContext, appQueue } from "@/server/context";
import { seenAmong } from "@/server/import-request";
import { keepUpload, mostBytes } from "@/server/upload";
import { addImport, importsById } from "@/store/imports";

/** How far several imports are, in the order in which they are named; those that are not there any more are left out. */
export const GET = route({ query: z.object({ ids: idsText }) }, async ({ query }) => {
  const rows = await importsById((await appContext()).store.db, query.ids);
  return query.ids.flatMap((id) => rows.filter((row) => row.id === id).map(seenAmong));
});

/** Takes a file as the body of the request, a piece at a time, and orders a look at it, or at each of the files that are packed in it. */
export const POST = route(
  { query: z.object({ name: nameInput.default("") }) },
  async ({ query, request }) => {
    const name = path.basename(query.name);
    if (name === "" || !request.body)
      return problemResponse([problem("no_file", "No file was sent.", "Choose a file.")], 400);
    const id = randomUUID();
    const file = path.join(uploadsFolder(), id);
    try {
      await keepUpload(request, file);
      const { files, left } = await unpack({ path: file, name }, file, mostBytes());
      if (!files.some((found) => found.path === file)) await rm(file, { force: true });
      const { db } = (await appContext()).store;
      const queue = await appQueue();
      const ids: string[] = [];
      for (const found of files) {
        const own = randomUUID();
        const place = path.join(uploadsFolder(), own);
        await rename(found.path, place);
        const { size: bytes } = await stat(place);
        await addImport(db, { id: own, name: found.name, path: place, bytes });
        await sendImport(queue, own);
        ids.push(own);
      }
      return { ids, left };
    } catch (error) {
      await rm(file, { force: true });
      if (error instanceof ProblemError) return problemResponse(error.problems, 413);
      if ((error as { readonly code?: string }).code !== "ENOSPC") throw error;
      return problemResponse(
        [
          problem(
            "disk_full",
            "The server's disk is full; the file was not saved.",
            "Free disk space, then upload the file again.",
          ),
        ],
        507,
      );
    }
  },
);
