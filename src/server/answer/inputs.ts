import { z } from "zod";

/** The largest number of a row in our own database. */
const MOST_ID = 2_147_483_647;
const LONGEST_NAME = 1000;
const LONGEST_FILE = 2_000_000;

/** A text from outside. The database holds no NUL characters. */
export const textInput = (most: number) =>
  z
    .string()
    .max(most)
    .refine((text) => !text.includes("\0"), "it contains a NUL character");

/** A name of a pipeline, table, column, candidate and the like. */
export const nameInput = textInput(LONGEST_NAME);
/** A pipeline file, or another long text. */
export const fileInput = textInput(LONGEST_FILE);
/** What a person says in a few words. */
export const remarkInput = (most: number) => textInput(most).trim();

/** The number of a version, schedule, alert, message or backfill. */
export const idInput = z.int().min(1).max(MOST_ID);
/** The same as it stands in an address. */
export const idText = z
  .string()
  .regex(/^[0-9]{1,10}$/)
  .transform(Number)
  .pipe(idInput);
/** The id of a run or an import. */
export const uuidInput = z.uuid();
/** Several of them, with commas between. */
export const idsText = z
  .string()
  .transform((text) => text.split(","))
  .pipe(z.array(uuidInput).min(1).max(500));
/** A count in an address, such as how many rows are passed over. */
export const countText = (most: number) => z.coerce.number().int().min(0).max(most);
