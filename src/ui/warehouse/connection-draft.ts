import { z } from "zod";
import type { GrantWish } from "@/warehouse/port/grants";

const MOST_PORT = 65_535;
const PORT = "Enter a port from 1 to 65,535; PostgreSQL’s default is 5432.";

const needed = (words: string) => z.string().refine((text) => text.trim() !== "", words);

/** What a person types of a warehouse. */
export const connectionSchema = z
  .object({
    host: needed("Enter the host on which PostgreSQL runs."),
    port: z
      .string()
      .refine(
        (text) => Number.isInteger(Number(text)) && Number(text) >= 1 && Number(text) <= MOST_PORT,
        PORT,
      ),
    database: needed("Enter the database."),
    reader: needed("Enter the reader role."),
    readerPassword: z.string(),
    writer: needed("Enter the writer role."),
    writerPassword: z.string(),
    outputSchema: needed("Enter the schema for predictions."),
    scratchSchema: needed("Enter the scratch schema."),
    importSchema: needed("Enter the schema for imports."),
  })
  .superRefine((draft, context) => {
    const refuse = (field: keyof typeof draft, message: string): void =>
      context.addIssue({ code: "custom", path: [field], message });
    if (draft.writer.trim() !== "" && draft.writer.trim() === draft.reader.trim())
      refuse("writer", "Use a different role from the reader, so that reading sessions cannot write.");
    const schemas = [draft.outputSchema, draft.scratchSchema, draft.importSchema].map((name) => name.trim());
    if (new Set(schemas).size < schemas.length) refuse("importSchema", "Use three different schemas.");
  });

export type ConnectionDraft = z.infer<typeof connectionSchema>;

/** Names that are taken unless somebody says otherwise. */
export const NEW_CONNECTION: ConnectionDraft = {
  host: "",
  port: "5432",
  database: "",
  reader: "ravlen_reader",
  readerPassword: "",
  writer: "ravlen_writer",
  writerPassword: "",
  outputSchema: "predictions",
  scratchSchema: "ravlen_scratch",
  importSchema: "imported",
};

export type DraftField = keyof ConnectionDraft;

/** Names in a list that a person typed. */
const listed = (text: string): readonly string[] =>
  text
    .split(/[\s,]+/)
    .map((name) => name.trim())
    .filter((name) => name !== "");

/** Whom a warehouse is to let in to what, as the grants are asked for. */
export function grantWish(
  draft: ConnectionDraft,
  { read, owners }: { readonly read: string; readonly owners: string },
): Omit<GrantWish, "temporary"> {
  return {
    database: draft.database.trim() === "" ? "DATABASE" : draft.database.trim(),
    reader: draft.reader.trim(),
    writer: draft.writer.trim(),
    own: [draft.outputSchema, draft.scratchSchema, draft.importSchema].map((name) => name.trim()),
    read: listed(read),
    owners: listed(owners),
  };
}
