import { grantStatements } from "@/core/sql/grants";

/** What a person has typed of a warehouse so far. */
export interface ConnectionDraft {
  readonly host: string;
  readonly port: string;
  readonly database: string;
  readonly reader: string;
  readonly readerPassword: string;
  readonly writer: string;
  readonly writerPassword: string;
  readonly outputSchema: string;
  readonly scratchSchema: string;
  readonly importSchema: string;
}

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

const NEEDED: Readonly<Partial<Record<DraftField, string>>> = {
  host: "Enter the host on which PostgreSQL runs.",
  database: "Enter the database.",
  reader: "Enter the reader role.",
  writer: "Enter the writer role.",
  outputSchema: "Enter the schema for predictions.",
  scratchSchema: "Enter the scratch schema.",
  importSchema: "Enter the schema for imports.",
};
const MOST_PORT = 65_535;

/** What is still to be said or changed, by the field where it can be. */
export function connectionProblems(draft: ConnectionDraft): ReadonlyMap<DraftField, string> {
  const problems = new Map<DraftField, string>();
  for (const [field, words] of Object.entries(NEEDED) as [DraftField, string][])
    if (draft[field].trim() === "") problems.set(field, words);
  const port = Number(draft.port);
  if (!Number.isInteger(port) || port < 1 || port > MOST_PORT)
    problems.set("port", "Enter a port from 1 to 65,535; PostgreSQL’s default is 5432.");
  if (draft.writer.trim() !== "" && draft.writer.trim() === draft.reader.trim())
    problems.set("writer", "Use a different role from the reader, so that reading sessions cannot write.");
  const schemas = [draft.outputSchema, draft.scratchSchema, draft.importSchema].map((name) => name.trim());
  if (new Set(schemas).size < schemas.length) problems.set("importSchema", "Use three different schemas.");
  return problems;
}

/** Names in a list that a person typed. */
const listed = (text: string): readonly string[] =>
  text
    .split(/[\s,]+/)
    .map((name) => name.trim())
    .filter((name) => name !== "");

/** The statements that a superuser runs, so that both roles can do what they need and no more. */
export function grantsFor(
  draft: ConnectionDraft,
  { read, owners }: { readonly read: string; readonly owners: string },
): string {
  const statements = grantStatements({
    database: draft.database.trim() === "" ? "DATABASE" : draft.database.trim(),
    reader: draft.reader.trim(),
    writer: draft.writer.trim(),
    own: [draft.outputSchema, draft.scratchSchema, draft.importSchema].map((name) => name.trim()),
    read: listed(read),
    owners: listed(owners),
    temporary: "20GB",
  });
  return [
    "-- To be run by a superuser in this database.",
    ...statements.map((statement) => `${statement};`),
    "-- Then give both roles passwords: \\password ROLE in psql keeps them out of its history.",
  ].join("\n");
}
