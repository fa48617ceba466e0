import { statSync, mkdtempSync, readFileSync, rmSync, writeFileSync, existsSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import ExcelJS from "exceljs";
import { packWorkbook } from "../../../testing/workbook";
import { parquetWriteBuffer } from "hyparquet-writer";
import type { Choices, FileLook, LookWishes } from "@/core/files/look";
import { isPlain } from "@/core/files/plain";
import { openBench, type Bench } from "../../../testing/warehouse";
import { readDefinitions } from "@/core/files/table-definition";
import { defineTables, loadFolder } from "./folder";
import { loadFile, type Loaded } from "./load";
import { lookAtFile } from "./look-at-file";

let bench: Bench;
let folder: string;
beforeAll(async () => {
  bench = await openBench();
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-import-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await bench.close();
});

const put = (name: string, content: string | Uint8Array): string => {
  const file = path.join(folder, name);
  writeFileSync(file, content);
  return file;
};
const choicesOf = (look: FileLook, table: string, more: Partial<Choices> = {}): Choices => ({
  ...look.choices,
  table,
  mode: "new",
  misfits: "stop",
  ...more,
});
const look = (file: string, wishes: LookWishes = {}): Promise<FileLook> =>
  lookAtFile(file, path.basename(file), wishes);
const load = (
  file: string,
  found: FileLook,
  choices: Choices,
  signal = new AbortController().signal,
): Promise<Loaded> =>
  loadFile(bench.context.warehouse, file, found, choices, {
    onProgress: () => undefined,
    signal,
    rejectsFile: path.join(folder, "rejects.csv"),
  });
const rows = (sql: string): Promise<readonly Record<string, unknown>[]> => bench.sql(sql);
const tables = async (): Promise<string> =>
  JSON.stringify(
    await rows(
      "SELECT relname FROM pg_class c JOIN pg_namespace n ON n.oid = relnamespace WHERE nspname = 'imported' AND relkind = 'r' ORDER BY 1",
    ),
  );

const PLAIN = `order_id,placed,amount,note\n${Array.from({ length: 300 }, (_, index) => `${index + 1},2026-01-${String((index % 28) + 1).padStart(2, "0")},${index * 1.5},${['"with, comma"', "", "x"][index % 3]}`).join("\n")}\n`;

test("a plain file goes to the database as it is, and read row by row gives the same table", async () => {
  const file = put("plain.csv", PLAIN);
  const found = await look(file);
  expect(found).toMatchObject({
    rows: 300,
    broken: 0,
    format: "csv",
    choices: { key: ["order_id"], text: { delimiter: ",", header: true, encoding: "utf-8" } },
  });
  expect(found.choices.columns.map((column) => column.type)).toEqual([
    "integer",
    "date",
    "double precision",
    "text",
  ]);
  const direct = choicesOf(found, "plain_direct");
  expect(isPlain(found, direct)).toBe(true);
  expect(await load(file, found, direct)).toMatchObject({ rows: 300, rejected: 0, plain: true });
  const slow = choicesOf(found, "plain_slow", {
    values: { decimal: ".", missing: ["", "NULL"] },
    columns: found.choices.columns.map((column) => ({ ...column, take: true })),
    text: { ...found.choices.text!, header: true },
  });
  expect(
    await load(file, { ...found, newline: "\r" }, { ...slow, text: { ...slow.text! } }).catch(
      () => undefined,
    ),
  ).toBeUndefined();
  expect(
    await load(
      file,
      { ...found, choices: { ...found.choices, text: { ...found.choices.text!, quote: "'" } } },
      slow,
    ),
  ).toMatchObject({ rows: 300, plain: false });
  expect(
    await rows(
      "SELECT count(*)::int AS n FROM (TABLE imported.plain_direct EXCEPT ALL TABLE imported.plain_slow) d",
    ),
  ).toEqual([{ n: 0 }]);
  expect(await rows("SELECT count(*)::int AS n FROM imported.plain_direct WHERE note IS NULL")).toEqual([
    { n: 100 },
  ]);
});

test("another country's file: semicolons, commas, day before month, windows characters, markers", async () => {
  const text = `Größe;wann;bezahlt;menge\n${Array.from({ length: 120 }, (_, index) => `1.${String(index).padStart(3, "0")},5;${String((index % 28) + 1).padStart(2, "0")}.02.2026;${index % 2 ? "ja" : "nein"};${index === 7 ? "NA" : index}`).join("\r\n")}\r\n`;
  const file = put("fremd.csv", Buffer.from(text, "latin1"));
  const found = await look(file);
  expect(found.choices).toMatchObject({
    text: { encoding: "windows-1252", delimiter: ";" },
    values: { decimal: ",", missing: ["", "NA"] },
  });
  expect(found.choices.columns.map((column) => [column.name, column.type])).toEqual([
    ["große", "double precision"],
    ["wann", "date"],
    ["bezahlt", "boolean"],
    ["menge", "integer"],
  ]);
  await load(file, found, choicesOf(found, "fremd"));
  expect(
    await rows(
      `SELECT "große" AS g, wann::text AS w, bezahlt AS b, (SELECT count(*)::int FROM imported.fremd WHERE menge IS NULL) AS missing FROM imported.fremd WHERE menge = 3`,
    ),
  ).toEqual([{ g: 1003.5, w: "2026-02-04", b: true, missing: 1 }]);
});

test("rows that do not fit are named; the person stops, or loads the rest and keeps the rejects", async () => {
  const file = put(
    "rough.csv",
    `id,n\n1,10\n2,"open\n3,30\n4,x\n5\n${Array.from({ length: 200 }, (_, index) => `${index + 6},7`).join("\n")}\nid,n\n`,
  );
  const found = await look(file);
  expect(found.brokenRows.map((brokenRow) => [brokenRow.line, brokenRow.reason])).toEqual([
    [3, "a quote is not closed"],
    [6, "1 value where 2 are expected"],
    [207, "the header row repeated"],
  ]);
  expect(found.findings[1]!.misfits).toBe(1);
  const before = await tables();
  await expect(load(file, found, choicesOf(found, "rough"))).rejects.toMatchObject({
    misfits: [{ line: 3 }, { line: 5, reason: "n: “x” is not a whole number" }, { line: 6 }, { line: 207 }],
  });
  expect(await tables()).toBe(before);
  expect(await load(file, found, choicesOf(found, "rough", { misfits: "reject" }))).toMatchObject({
    rows: 202,
    rejected: 4,
  });
  expect(readFileSync(path.join(folder, "rejects.csv"), "utf8").split("\n").slice(0, 3)).toEqual([
    "line,reason,text",
    '3,"a quote is not closed","2,""open"',
    '5,"n: “x” is not a whole number","4,x"',
  ]);
});

test("append adds to what is there, replace takes its place at once, and neither leaves half", async () => {
  const file = put("more.csv", "id,v\n1,a\n2,b\n");
  const found = await look(file);
  await load(file, found, choicesOf(found, "more", { key: ["id"] }));
  await expect(load(file, found, choicesOf(found, "more"))).rejects.toThrow("already a table");
  // The same keys again: refused by the table's own key, and nothing of the file stays.
  await expect(load(file, found, choicesOf(found, "more", { mode: "append" }))).rejects.toThrow(
    /duplicate key/,
  );
  expect(await rows("SELECT count(*)::int AS n FROM imported.more")).toEqual([{ n: 2 }]);
  const next = put("next.csv", "id,v\n3,c\n");
  await load(next, await look(next), choicesOf(await look(next), "more", { mode: "append", key: [] }));
  expect(await rows("SELECT string_agg(v, '' ORDER BY id) AS all FROM imported.more")).toEqual([
    { all: "abc" },
  ]);
  await load(next, await look(next), choicesOf(await look(next), "more", { mode: "replace" }));
  expect(await rows("SELECT string_agg(v, '' ORDER BY id) AS all FROM imported.more")).toEqual([
    { all: "c" },
  ]);
  await expect(load(next, await look(next), choicesOf(await look(next), "larkmere.more"))).rejects.toThrow(
    'only be loaded into the schema "imported"',
  );
});

test("a cancelled load leaves nothing behind, and two loads into one table take turns", async () => {
  const big = put(
    "big.csv",
    `id,n\n${Array.from({ length: 400_000 }, (_, index) => `${index},${index % 7}x`).join("\n")}\n`,
  );
  const found = await look(big);
  const before = await tables();
  const stop = new AbortController();
  const going = load(
    big,
    found,
    choicesOf(found, "big", { values: { decimal: ".", missing: ["", "NULL"] } }),
    stop.signal,
  );
  setTimeout(() => stop.abort(), 150);
  await expect(going).rejects.toThrow();
  expect(await tables()).toBe(before);
  const both = await Promise.allSettled([
    load(big, found, choicesOf(found, "big")),
    load(big, found, choicesOf(found, "big")),
  ]);
  const failed = both.find((result) => result.status === "rejected");
  expect(both.filter((result) => result.status === "fulfilled")).toHaveLength(1);
  expect(String((failed as PromiseRejectedResult).reason)).toMatch(
    /Another file is being loaded|already a table/,
  );
  expect(await rows("SELECT count(*)::int AS n FROM imported.big")).toEqual([{ n: 400_000 }]);
}, 60_000);

test("JSON Lines: names of all lines, nested values kept, lines that are none named", async () => {
  const file = put(
    "events.jsonl",
    '{"id": 1, "at": "2026-03-01T10:00:00Z", "tags": ["a"]}\n{"id": 2, "late": true}\nnonsense\n[1]\n{"id": 3, "at": null}\n',
  );
  const found = await look(file);
  expect(found.brokenRows.map((brokenRow) => brokenRow.line)).toEqual([3, 4]);
  expect(found.choices.columns.map((column) => [column.name, column.type])).toEqual([
    ["id", "integer"],
    ["at", "timestamptz"],
    ["tags", "jsonb"],
    ["late", "boolean"],
  ]);
  await load(file, found, choicesOf(found, "events", { misfits: "reject" }));
  expect(
    await rows("SELECT id, at IS NULL AS no, tags->>0 AS tag, late FROM imported.events ORDER BY id"),
  ).toEqual([
    { id: 1, no: false, tag: "a", late: null },
    { id: 2, no: true, tag: null, late: true },
    { id: 3, no: true, tag: null, late: null },
  ]);
});

test("Parquet: types as the file declares them", async () => {
  const buffer = parquetWriteBuffer({
    columnData: [
      { name: "id", data: [1n, 2n, 9007199254740993n], type: "INT64" },
      { name: "name", data: ["001", "b", null], type: "STRING", nullable: true },
      { name: "x", data: [1.5, 2.5, 3.5], type: "DOUBLE" },
      { name: "ok", data: [true, false, true], type: "BOOLEAN" },
      { name: "at", data: [new Date(0), new Date("2026-01-02T03:04:05Z"), new Date(1)], type: "TIMESTAMP" },
    ],
  });
  const file = put("t.parquet", new Uint8Array(buffer));
  const found = await look(file);
  expect(found.choices.columns.map((column) => column.type)).toEqual([
    "bigint",
    "text",
    "double precision",
    "boolean",
    "timestamptz",
  ]);
  await load(file, found, choicesOf(found, "from_parquet"));
  expect(
    await rows(
      "SELECT id::text, name, x, ok, at::text FROM imported.from_parquet WHERE name IS NULL OR name = 'b' ORDER BY x",
    ),
  ).toMatchObject([
    { id: "2", name: "b" },
    { id: "9007199254740993", name: null },
  ]);
});

test("Excel: one sheet, dates, formulas by their result, merged cells all with their value", async () => {
  const workbook = new ExcelJS.Workbook();
  workbook.addWorksheet("empty");
  const sheet = workbook.addWorksheet("data");
  sheet.addRows([
    ["site", "opened", "sum"],
    ["a", new Date(Date.UTC(1900, 2, 1)), { formula: "1+1", result: 2 }],
    ["b", new Date(Date.UTC(2026, 0, 31)), { formula: "1/0", result: { error: "#DIV/0!" } }],
    ["c", new Date(Date.UTC(2026, 1, 28)), 4],
  ]);
  sheet.mergeCells("A3:A4");
  const file = path.join(folder, "w.xlsx");
  await workbook.xlsx.writeFile(file);
  const found = await look(file);
  expect(found).toMatchObject({ sheets: ["empty", "data"], choices: { sheet: "data" }, rows: 3 });
  await load(file, found, choicesOf(found, "from_excel"));
  expect(await rows("SELECT site, opened::text, sum FROM imported.from_excel ORDER BY opened")).toEqual([
    { site: "a", opened: "1900-03-01", sum: 2 },
    { site: "b", opened: "2026-01-31", sum: null },
    { site: "b", opened: "2026-02-28", sum: 4 },
  ]);
  await expect(look(file, { sheet: "nothing" })).rejects.toThrow('no sheet "nothing"');
});

test("a small workbook that unpacks to very much is refused within its bounds, and a long one is read in little memory", async () => {
  const last = Array.from(
    { length: 3000 },
    (_, row) => `<row r="${row + 1}"><c r="XFD${row + 1}"><v>1</v></c></row>`,
  );
  const wide = put("wide.xlsx", await packWorkbook([`<sheetData>${last.join("")}</sheetData>`]));
  expect(statSync(wide).size).toBeLessThan(30_000);
  await expect(look(wide)).rejects.toThrow("has a value in column 16,384; the maximum is 1,600 columns");
  const merges = Array.from({ length: 50_000 }, () => '<mergeCell ref="A1:A1048576"/>').join("");
  const overlapping = put(
    "merges.xlsx",
    await packWorkbook([
      `<sheetData><row><c><v>1</v></c></row></sheetData><mergeCells>${merges}</mergeCells>`,
    ]),
  );
  await expect(look(overlapping)).rejects.toThrow("its merged cells overlap");
  const texts = put(
    "texts.xlsx",
    await packWorkbook(["<sheetData/>"], `<si><t>${"x".repeat(1_000_000)}</t></si>`.repeat(105)),
  );
  await expect(look(texts)).rejects.toThrow("more than 100 million characters");
  const rows =
    '<row><c t="s"><v>0</v></c><c t="inlineStr"><is><r><t>two </t></r><r><t>parts</t></r></is></c><c><v>7</v></c></row>';
  const long = put(
    "long.xlsx",
    await packWorkbook(
      [`<sheetData>${rows.repeat(30_000)}</sheetData>`],
      "<si><r><t>ko</t></r><rPh><t>reading</t></rPh><r><t>pp_x0041_</t></r></si>",
    ),
  );
  const before = process.memoryUsage().heapUsed;
  const found = await look(long);
  expect(found.rows).toBe(29_999);
  expect(found.findings.map((finding) => finding.source)).toEqual(["koppA", "two parts", "7"]);
  expect(process.memoryUsage().heapUsed - before).toBeLessThan(100e6);
});

test("files that are not what they say are refused with what they are", async () => {
  const zip = put("really.csv", Buffer.concat([Buffer.from("PK\x03\x04"), Buffer.alloc(100)]));
  await expect(look(zip)).rejects.toThrow("zip archive");
  await expect(look(put("empty.csv", ""))).rejects.toThrow("The file is empty");
  await expect(look(put("bytes.csv", Buffer.from([1, 2, 0, 3])))).rejects.toThrow("not a text file");
  await expect(
    look(put("broken.xlsx", Buffer.concat([Buffer.from("PK\x03\x04"), Buffer.alloc(100)]))),
  ).rejects.toThrow("Not an Excel workbook");
});

test("a byte-order mark is no data, mixed encodings cost only their rows, and only-headings is a table without rows", async () => {
  const marked = put(
    "bom.csv",
    Buffer.concat([Buffer.from([0xef, 0xbb, 0xbf]), Buffer.from("id,name\n1,ä\n2,b\n")]),
  );
  const found = await look(marked);
  expect(found.findings[0]!.source).toBe("id");
  expect(await load(marked, found, choicesOf(found, "bom"))).toMatchObject({ rows: 2, plain: true });
  expect(await rows("SELECT name FROM imported.bom WHERE id = 1")).toEqual([{ name: "ä" }]);
  const mixed = put(
    "mixed.csv",
    Buffer.concat([
      Buffer.from(`id,name\n${Array.from({ length: 50 }, (_, index) => `${index},ä`).join("\n")}\n`),
      Buffer.from("50,"),
      Buffer.from([0xe4]),
      Buffer.from("\n51,z\n"),
    ]),
  );
  const mixedLook = await look(mixed);
  expect(mixedLook).toMatchObject({
    broken: 1,
    brokenRows: [{ line: 52, reason: "bytes that are not UTF-8" }],
    choices: { text: { encoding: "utf-8" } },
  });
  expect(await load(mixed, mixedLook, choicesOf(mixedLook, "mixed", { misfits: "reject" }))).toMatchObject({
    rows: 51,
    rejected: 1,
  });
  const bare = put("bare.csv", "a,b\n");
  const bareLook = await look(bare);
  expect(bareLook.notes).toContain("The file has a header, but no rows.");
  expect(await load(bare, bareLook, choicesOf(bareLook, "bare"))).toMatchObject({ rows: 0 });
});

test("2,000 columns and a value of a million characters", async () => {
  const wide = put(
    "wide.csv",
    `${Array.from({ length: 2000 }, (_, index) => `c${index}`).join(",")}\n${Array.from({ length: 2000 }, () => "").join(",")}1\n`,
  );
  const found = await look(wide);
  expect(found.notes[0]).toContain("2000 columns");
  await load(wide, found, choicesOf(found, "wide", { key: [] }));
  expect(
    await rows(
      "SELECT count(*)::int AS n FROM information_schema.columns WHERE table_schema = 'imported' AND table_name = 'wide'",
    ),
  ).toEqual([{ n: 1599 }]);
  const long = put("long.csv", `id,t\n1,"${"line\n".repeat(200_000)}"\n2,x\n`);
  const longLook = await look(long);
  await load(long, longLook, choicesOf(longLook, "long"));
  expect(await rows("SELECT length(t) AS n FROM imported.long ORDER BY id")).toEqual([
    { n: 1_000_000 },
    { n: 1 },
  ]);
});

test("a key that is not one is refused, and the table is not made", async () => {
  const file = put("dup.csv", "id,v\n1,a\n1,b\n");
  const found = await look(file);
  const before = await tables();
  await expect(load(file, found, choicesOf(found, "dup", { key: ["id"] }))).rejects.toThrow("not unique");
  expect(await tables()).toBe(before);
  expect(existsSync(path.join(folder, "dup"))).toBe(false);
});

const SQL = `CREATE TABLE shop (shop_id integer PRIMARY KEY, town varchar(20) NOT NULL);
-- orders of a shop
CREATE TABLE orders (order_id bigint PRIMARY KEY, shop_id integer REFERENCES shop (shop_id), placed date, total numeric(8,2), UNIQUE (shop_id, placed));
COMMENT ON TABLE orders IS 'What was bought';`;

test("a folder with definitions and data loads as a whole, or not at all", async () => {
  const own = mkdtempSync(path.join(folder, "folder-"));
  writeFileSync(path.join(own, "tables.sql"), SQL);
  writeFileSync(path.join(own, "shop.csv"), "shop_id,town\n1,Ostwick\n2,Tarnholm\n");
  writeFileSync(
    path.join(own, "orders.jsonl"),
    '{"order_id": 10, "shop_id": 1, "placed": "2026-01-02", "total": 1.5}\n{"order_id": 11, "shop_id": 3, "placed": "2026-01-02", "total": 2}\n',
  );
  const go = () =>
    loadFolder(bench.context.warehouse, own, "stop", {
      onProgress: () => undefined,
      signal: new AbortController().signal,
      rejectsFile: path.join(own, "rejects"),
    });
  const before = await tables();
  await expect(go()).rejects.toThrow("names rows of shop that do not exist");
  expect(await tables()).toBe(before);
  writeFileSync(
    path.join(own, "orders.jsonl"),
    '{"order_id": 10, "shop_id": 1, "placed": "2026-01-02", "total": 1.5}\n',
  );
  expect(await go()).toEqual([
    { table: "shop", rows: 2, rejected: 0, file: "shop.csv" },
    { table: "orders", rows: 1, rejected: 0, file: "orders.jsonl" },
  ]);
  expect(
    await rows(
      "SELECT town, total::text, obj_description('imported.orders'::regclass) AS words FROM imported.orders JOIN imported.shop USING (shop_id)",
    ),
  ).toEqual([{ town: "Ostwick", total: "1.50", words: "What was bought" }]);
  writeFileSync(path.join(own, "strange.csv"), "a\n1\n");
  await expect(go()).rejects.toThrow("matches no defined table");
});

test.each([
  ["DROP TABLE x", "defines no table"],
  ["CREATE TABLE t (a integer[])", "cannot be loaded"],
  ["CREATE TABLE t (a", "SQL"],
  ["-- nothing", "defines no table"],
])("definitions that hold anything else are refused: %s", async (sql, words) => {
  await expect(defineTables(bench.context.warehouse, sql)).rejects.toThrow(words);
});

test("what a definition holds besides is passed over and named with its line, and nothing of it is carried out", async () => {
  await bench.sql("CREATE TABLE imported.kept (n integer)");
  const text = `-- a script
CREATE TABLE plain (
  a integer DEFAULT 7 PRIMARY KEY,
  b text CHECK (b <> '')
);

-- away with it
DROP TABLE imported.kept;
INSERT INTO plain VALUES (1, 'x');`;
  const { tables, left } = readDefinitions(text);
  expect(tables.map(({ name, primaryKey }) => [name, primaryKey])).toEqual([["plain", ["a"]]]);
  expect(left.map(({ code, severity, location }) => [code, severity, location?.line])).toEqual([
    ["constraint_unsupported", "warning", 2],
    ["constraint_unsupported", "warning", 2],
    ["statement_unsupported", "warning", 8],
    ["statement_unsupported", "warning", 9],
  ]);
  await defineTables(bench.context.warehouse, text);
  expect(await rows("SELECT count(*)::int AS rows FROM imported.plain")).toEqual([{ rows: 0 }]);
  expect(await rows("SELECT count(*)::int AS rows FROM imported.kept")).toEqual([{ rows: 0 }]);
  expect(
    await rows("SELECT count(*)::int AS defaults FROM pg_attrdef WHERE adrelid = 'imported.plain'::regclass"),
  ).toEqual([{ defaults: 0 }]);
});
