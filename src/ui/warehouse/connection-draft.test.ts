import { connectionSchema, grantsFor, NEW_CONNECTION, type ConnectionDraft } from "./connection-draft";

const GOOD: ConnectionDraft = { ...NEW_CONNECTION, host: "db.example", database: "river" };

test.each<readonly [Partial<ConnectionDraft>, readonly string[]]>([
  [{}, []],
  [{ host: " " }, ["host"]],
  [{ port: "0" }, ["port"]],
  [{ port: "54.5" }, ["port"]],
  [{ writer: "ravlen_reader" }, ["writer"]],
  [{ importSchema: "predictions" }, ["importSchema"]],
  [{ database: "", reader: "" }, ["database", "reader"]],
])("%j", (changes, fields) => {
  const { error } = connectionSchema.safeParse({ ...GOOD, ...changes });
  const found = (error?.issues ?? []).map(({ path }) => String(path[0]));
  expect(found.toSorted()).toEqual(fields.toSorted());
});

test("the statements name what was typed, quoted, and no password", () => {
  const text = grantsFor(
    { ...GOOD, reader: 'odd "role"', readerPassword: "secret-1", writerPassword: "secret-2" },
    { read: "sales, hr  raw", owners: "loader" },
  );
  expect(text).toContain('GRANT USAGE ON SCHEMA "raw" TO "odd ""role""", "ravlen_writer";');
  expect(text).toContain('ALTER DEFAULT PRIVILEGES FOR ROLE "loader" IN SCHEMA "hr"');
  expect(text).not.toMatch(/secret/);
});
