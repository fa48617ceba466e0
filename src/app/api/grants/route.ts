import { z } from "zod";
import { grantScript } from "@/runs/grants";
import { nameInput } from "@/server/answer/inputs";
import { route } from "@/server/answer/route";

const wish = z.object({
  database: nameInput,
  reader: nameInput,
  writer: nameInput,
  own: z.array(nameInput).max(10),
  read: z.array(nameInput).max(1000),
  owners: z.array(nameInput).max(1000),
});

/** Temporary disk that one session may take. */
const TEMPORARY = "20GB";

/** What a warehouse's superuser runs to let Ravlen in, for names that a person is typing. */
export const POST = route({ body: wish }, ({ body }) =>
  Promise.resolve({ script: grantScript({ ...body, temporary: TEMPORARY }) }),
);
