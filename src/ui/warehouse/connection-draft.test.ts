import { connectionSchema, grantWish, NEW_CONNECTION, type ConnectionDraft } from "./connection-draft";

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

test("grants are asked for the names that were typed, and no password", () => {
  const wish = grantWish(
    { ...GOOD, reader: 'odd "role" ', readerPassword: "secret-1", writerPassword: "secret-2" },
    { read: "sales, hr  raw", owners: "loader" },
  );
  expect(wish).toMatchObject({ reader: 'odd "role"', read: ["sales", "hr", "raw"], owners: ["loader"] });
  expect(JSON.stringify(wish)).not.toMatch(/secret/);
});
