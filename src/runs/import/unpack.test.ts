import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { gzipSync } from "node:zlib";
import ExcelJS from "exceljs";
import JSZip from "jszip";
import { severalChoices, tableNameOf } from "@/core/files/several";
import { unwrap } from "@/core/problem";
import { addImport, failThoseBehind, importById, orderLoad, waitingImports } from "@/store/imports";
import { adviceIn } from "../../../testing/advice/scan";
import { Situations, type Situation } from "../../../testing/advice/situation";
import { openBench, type Bench } from "../../../testing/warehouse";
import { doImport } from "./job";
import { unpack } from "./unpack";

/** Packed files, and several files at once. */
let bench: Bench;
let folder: string;
beforeAll(async () => {
  bench = await openBench();
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-unpack-"));
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
const MEGABYTE = 2 ** 20;
async function zipped(name: string, files: Readonly<Record<string, string>>): Promise<string> {
  const archive = new JSZip();
  for (const [entry, text] of Object.entries(files)) archive.file(entry, text);
  return put(name, await archive.generateAsync({ type: "nodebuffer", compression: "DEFLATE" }));
}
const unpacked = (file: string, most = MEGABYTE) =>
  unpack({ path: file, name: path.basename(file) }, `${file}-out`, most);

test("what was packed comes out as it was, under its own name, and the packed file stays", async () => {
  const text = "a,b\n1,ü\n2,y\n";
  const gz = await unpacked(put("wares.csv.gz", gzipSync(text)));
  expect(gz.files.map(({ name }) => name)).toEqual(["wares.csv"]);
  expect(readFileSync(gz.files[0]!.path, "utf8")).toBe(text);
  const zip = await unpacked(
    await zipped("month.zip", {
      "may/wares.csv": text,
      "june/wares.tsv": "a\tb\n",
      "__MACOSX/._wares.csv": "x",
      "may/read me.pdf": "%PDF",
    }),
  );
  expect(zip.files.map(({ name, path: file }) => [name, readFileSync(file, "utf8")])).toEqual([
    ["wares.csv", text],
    ["wares.tsv", "a\tb\n"],
  ]);
  expect(zip.left).toEqual(["may/read me.pdf"]);
  expect([existsSync(path.join(folder, "wares.csv.gz")), existsSync(path.join(folder, "month.zip"))]).toEqual(
    [true, true],
  );
  const plain = put("plain.csv", text);
  expect((await unpacked(plain)).files).toEqual([{ path: plain, name: "plain.csv" }]);
  const book = new ExcelJS.Workbook();
  book.addWorksheet("one").addRows([["a"], [1]]);
  const sheet = put("book.xlsx", new Uint8Array(await book.xlsx.writeBuffer()));
  expect((await unpacked(sheet)).files).toEqual([{ path: sheet, name: "book.xlsx" }]);
});

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Create or download it again.",
    mistake: () => unpacked(put("cut.csv.gz", gzipSync("a,b\n".repeat(5000)).subarray(0, 40))),
    remedies: [() => unpacked(put("whole.csv.gz", gzipSync("a,b\n".repeat(5000))))],
  },
  {
    advice: "Create or download it again.",
    mistake: async () =>
      unpacked(put("cut.zip", readFileSync(await zipped("good.zip", { "a.csv": "a\n1\n" })).subarray(0, 60))),
    remedies: [async () => unpacked(await zipped("again.zip", { "a.csv": "a\n1\n" }))],
  },
  {
    advice: "Load its files one by one, or raise RAVLEN_UPLOAD_MB.",
    mistake: () => unpacked(put("bomb.csv.gz", gzipSync("0".repeat(3 * MEGABYTE)))),
    remedies: [() => unpacked(put("bomb.csv.gz", gzipSync("0".repeat(3 * MEGABYTE))), 4 * MEGABYTE)],
  },
  {
    advice:
      "CSV, TSV, JSON Lines, Parquet and Excel files can be imported. An Excel workbook must end in .xlsx.",
    mistake: async () => unpacked(await zipped("pictures.zip", { "a.png": "x" })),
    remedies: [async () => unpacked(await zipped("pictures.zip", { "a.csv": "x" }))],
  },
  {
    advice: "Pack fewer files.",
    mistake: async () =>
      unpacked(
        await zipped(
          "many.zip",
          Object.fromEntries(Array.from({ length: 501 }, (_, n) => [`${n}.csv`, "a"])),
        ),
      ),
    remedies: [
      async () =>
        unpacked(
          await zipped(
            "many.zip",
            Object.fromEntries(Array.from({ length: 500 }, (_, n) => [`${n}.csv`, "a"])),
          ),
        ),
    ],
  },
  {
    advice: "Load each file into its own table.",
    mistake: () => several(["a,b", "a,c"], true),
    remedies: [() => several(["a,b", "a,c"], false)],
  },
  {
    advice: "Choose another name.",
    mistake: () => several(["a", "b"], false, ["f0"]),
    remedies: [() => several(["a", "b"], false, ["f2"])],
  },
];
/** How files with these columns would be loaded. */
const several = (columns: readonly string[], together: boolean, tables: readonly string[] = []) =>
  Promise.resolve(
    severalChoices(
      columns.map((names, place) => ({
        name: `f${place}.csv`,
        table: `f${place}`,
        look: {
          choices: {
            values: { decimal: ".", missing: [""] },
            key: [],
            columns: names
              .split(",")
              .map((name, at) => ({ place: at, name, type: "text" as const, take: true })),
          },
        },
      })),
      together,
      tables,
      "stop",
    ),
  );
const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about packed files is left untried, and nothing of a broken one stays", () => {
  expect(situations.untried(adviceIn(["src/runs/import/unpack.ts", "src/core/files/several.ts"]))).toEqual(
    [],
  );
  expect(readdirSync(folder).filter((name) => /^(cut|bomb)/.test(name) && name.includes("-out"))).toEqual([
    "bomb.csv.gz-out.0",
  ]);
});

async function looked(name: string, text: string): Promise<string> {
  const file = put(name, text);
  const { id } = await addImport(bench.context.store.db, {
    id: crypto.randomUUID(),
    name,
    path: file,
    bytes: text.length,
  });
  await doImport(bench.context, id, "test");
  return id;
}

test("files whose columns agree go into one table one after the other, in types that hold all of them; one that fails stops those behind it", async () => {
  const { db } = bench.context.store;
  const ids = [
    await looked("may.csv", "n,v,w\n1,2,x\n2,3,y\n"),
    await looked("june.csv", "v,n,w\n2.5,1,7\n,9,8\n"),
  ];
  const rows = await Promise.all(ids.map(async (id) => (await importById(db, id))!));
  const files = rows.map(({ name, look }) => ({ name, look: look!, table: tableNameOf(name) }));
  const choices = unwrap(severalChoices(files, true, [], "stop"));
  expect(choices.map(({ table, mode, key }) => [table, mode, key])).toEqual([
    ["may", "new", []],
    ["may", "append", []],
  ]);
  await orderLoad(db, ids[0]!, choices[0]!);
  await orderLoad(db, ids[1]!, choices[1]!, ids[0]!);
  // The second waits, whoever asks.
  expect(await waitingImports(db)).toEqual([ids[0]]);
  await doImport(bench.context, ids[1]!, "test");
  expect((await importById(db, ids[1]!))!.state).toBe("loading");
  await doImport(bench.context, ids[0]!, "test");
  expect(await waitingImports(db)).toEqual([ids[1]]);
  await doImport(bench.context, ids[1]!, "test");
  expect(await bench.sql("SELECT n, v, w FROM imported.may ORDER BY w, n")).toEqual([
    { n: 1, v: 2.5, w: "7" },
    { n: 9, v: null, w: "8" },
    { n: 1, v: 2, w: "x" },
    { n: 2, v: 3, w: "y" },
  ]);
  const bad = [await looked("bad.csv", "n\n1\nx\n"), await looked("behind.csv", "n\n3\n")];
  const stop = unwrap(
    severalChoices(
      await Promise.all(
        bad.map(async (id, place) => {
          const row = (await importById(db, id))!;
          const columns = row.look!.choices.columns.map((column) => ({
            ...column,
            type: "integer" as const,
          }));
          return {
            name: row.name,
            look: { choices: { ...row.look!.choices, columns } },
            table: place === 0 ? "bad" : "other",
          };
        }),
      ),
      true,
      [],
      "stop",
    ),
  );
  await orderLoad(db, bad[0]!, stop[0]!);
  await orderLoad(db, bad[1]!, stop[1]!, bad[0]!);
  await doImport(bench.context, bad[0]!, "test");
  await failThoseBehind(db);
  const [first, second] = await Promise.all(bad.map((id) => importById(db, id)));
  expect([first!.state, second!.state, second!.problems[0]!.code]).toEqual([
    "failed",
    "failed",
    "import_before",
  ]);
});
