import { randomUUID } from "node:crypto";
import { rm } from "node:fs/promises";
import path from "node:path";
import { z } from "zod";
import { problem, ProblemError } from "@/core/problem";
import { uploadsFolder } from "@/runs/import/job";
import { sendImport } from "@/runs/queue";
import { nameInput } from "@/server/answer/inputs";
import { problemResponse, route } from "@/server/answer/route";
import { appContext, appQueue } from "@/server/context";
import { keepUpload } from "@/server/upload";
import { addImport } from "@/store/imports";

/** Takes a file as the body of the request, a piece at a time, and orders a look at it. */
export const POST = route(
  { query: z.object({ name: nameInput.default("") }) },
  async ({ query, request }) => {
    const name = path.basename(query.name);
    if (name === "" || !request.body)
      return problemResponse([problem("no_file", "No file came.", "Choose a file.")], 400);
    const id = randomUUID();
    const file = path.join(uploadsFolder(), id);
    try {
      const bytes = await keepUpload(request, file);
      const row = await addImport((await appContext()).store.db, { id, name, path: file, bytes });
      await sendImport(await appQueue(), row.id);
      return { id: row.id };
    } catch (error) {
      await rm(file, { force: true });
      if (error instanceof ProblemError) return problemResponse(error.problems, 413);
      if ((error as { readonly code?: string }).code !== "ENOSPC") throw error;
      return problemResponse(
        [
          problem(
            "disk_full",
            "The disk of the server is full; the file was not kept.",
            "Free space, then choose the file again.",
          ),
        ],
        507,
      );
    }
  },
);
