import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { gzipSync } from "node:zlib";
import ExcelJS from "exceljs";
import { contractChoices } from "@/core/files/contract-choices";
import type { Choices, ColumnLook } from "@/core/files/look";
import { addImport, importById } from "@/store/imports";
import { adviceIn } from "../../../testing/advice/scan";
import { Situations, type Situation } from "../../../testing/advice/situation";
import { openBench, type Bench } from "../../../testing/warehouse";
import { doImport } from "./job";
import { loadFile } from "./load";
import { lookAtFile } from "./look-at-file";

/** What looking at files and loading them advises, followed: whoever does it has a table. */
let bench: Bench;
let folder: string;
beforeAll(async () => {
  bench = await openBench();
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-import-advice-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await bench.close();
});

type Content = string | Uint8Array;
function put(name: string, content: Content): string {
  const file = path.join(folder, name);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, content);
  return file;
}

/** A workbook with a sheet of rows, as its file holds it. */
async function workbook(
  rows: readonly (readonly (string | number)[])[],
  name = "wares",
): Promise<Uint8Array> {
  const book = new ExcelJS.Workbook();
  book.addWorksheet(name).addRows(rows.map((row) => [...row]));
  return new Uint8Array(await book.xlsx.writeBuffer());
}

const look = (name: string, content: Content, sheet?: string) =>
  lookAtFile(put(name, content), name, sheet === undefined ? {} : { sheet });
/** Looks at what is made only then. */
const looking = (name: string, content: () => Content | Promise<Content>, sheet?: string) => async () =>
  look(name, await content(), sheet);

const watch = {
  onProgress: () => undefined,
  signal: new AbortController().signal,
  rejectsFile: "",
};
const WARES = "code,weight\na,1.5\nb,2.5\nc,3.5\n";
const AGAIN = "code,weight\na,1.5\na,2.5\n";
const GAPS = "code,weight\na,1.5\n,2.5\n";
const WIDE = `${Array.from({ length: 1601 }, (_, index) => `c${index}`).join(",")}\n${Array.from({ length: 1601 }, (_, index) => index).join(",")}\n`;

interface Load extends Partial<Choices> {
  readonly content?: string;
  readonly change?: (column: ColumnLook) => Partial<ColumnLook>;
}
/** Loads a file into a table, with changes to what the look proposes. */
const loading =
  (table: string, load: Load = {}) =>
  async (): Promise<void> => {
    const { content = WARES, change = () => ({}), ...choices } = load;
    const file = put(`${table.replaceAll(/\W/g, "_")}.csv`, content);
    const found = await lookAtFile(file, "wares.csv");
    await loadFile(
      bench.context.warehouse,
      file,
      found,
      {
        ...found.choices,
        key: [],
        table,
        mode: "new",
        misfits: "stop",
        ...choices,
        columns: (choices.columns ?? found.choices.columns).map((column) => ({
          ...column,
          ...change(column),
        })),
      },
      watch,
    );
  };
const after = (sql: string, work: () => Promise<unknown>) => async (): Promise<unknown> => {
  await bench.sql(sql);
  return work();
};

/** Looks at a file as a worker does. */
const working = (name: string, gone: boolean) => async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const id = crypto.randomUUID();
  const file = put(name, WARES);
  await addImport(db, { id, name, path: file, bytes: WARES.length });
  if (gone) rmSync(file);
  await doImport(bench.context, id, "test");
  return importById(db, id);
};

const CONTRACT = { needed: [{ name: "code", type: "text", declared: "text" }], answer: [] } as const;

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Choose another file, or create it again.",
    mistake: looking("empty.csv", () => ""),
    remedies: [looking("empty.csv", () => WARES)],
  },
  {
    advice: "Unpack it, and import the file inside. An Excel workbook must end in .xlsx.",
    mistake: looking("wares.csv", () => workbook([["code"], ["a"]])),
    remedies: [looking("wares.xlsx", () => workbook([["code"], ["a"]])), looking("inside.csv", () => WARES)],
  },
  {
    advice: "Unpack it first: gunzip FILE.",
    mistake: looking("wares.csv", () => gzipSync(WARES)),
    remedies: [looking("wares.csv", () => WARES)],
  },
  {
    advice: "Save it as xlsx or CSV.",
    mistake: looking("wares.xls", () => Buffer.from("d0cf11e0a1b11ae1", "hex")),
    remedies: [looking("wares.xlsx", () => workbook([["code"], ["a"]])), looking("wares.csv", () => WARES)],
  },
  {
    advice: "CSV, TSV, JSON Lines, Parquet and Excel (xlsx) can be imported.",
    mistake: looking("wares.bin", () => Buffer.from([1, 0, 2, 0, 3])),
    remedies: [
      looking("wares.tsv", () => "code\tweight\na\t1\n"),
      looking("wares.jsonl", () => '{"code": "a"}\n'),
    ],
  },
  {
    advice: "Choose another file, or another sheet.",
    mistake: looking("wares.xlsx", () => workbook([], "nothing"), "nothing"),
    remedies: [looking("wares.xlsx", () => workbook([["code"], ["a"]]), "wares")],
  },
  {
    advice: "Available: wares.",
    mistake: looking("wares.xlsx", () => workbook([["code"], ["a"]]), "goods"),
    remedies: [looking("wares.xlsx", () => workbook([["code"], ["a"]]), "wares")],
  },
  {
    advice: "Save it again as xlsx or CSV.",
    mistake: looking("wares.xlsx", () => Buffer.from("PK no workbook")),
    remedies: [looking("wares.xlsx", () => workbook([["code"], ["a"]]))],
  },
  {
    advice: "Save the sheet as CSV and import that.",
    mistake: looking("large.xlsx", () =>
      workbook([["code"], [...Array.from({ length: 1601 }, () => "wide")]]),
    ),
    remedies: [looking("large.csv", () => WARES)],
  },
  {
    advice: "Upload it again.",
    mistake: working("lost.csv", true),
    remedies: [working("lost.csv", false)],
  },
  {
    advice: "the file has code, weight.",
    mistake: async () =>
      contractChoices(await look("wares.csv", WARES), {
        needed: [...CONTRACT.needed, { name: "age", type: "integer", declared: "integer" }],
        answer: [],
      }),
    remedies: [async () => contractChoices(await look("wares.csv", WARES), CONTRACT)],
  },
  {
    advice: "Write a name, or schema.name.",
    mistake: loading("imported."),
    remedies: [loading("named"), loading("imported.named_too")],
  },
  {
    advice: "Write imported.elsewhere.",
    mistake: loading("lab.elsewhere"),
    remedies: [loading("imported.elsewhere")],
  },
  {
    advice: "Select at least one.",
    mistake: loading("taken", { change: () => ({ take: false }) }),
    remedies: [loading("taken", { change: ({ place }) => ({ take: place === 0 }) })],
  },
  {
    advice: "Deselect some.",
    mistake: loading("wide", { content: WIDE, change: () => ({ take: true }) }),
    remedies: [loading("wide", { content: WIDE, change: ({ place }) => ({ take: place < 1500 }) })],
  },
  {
    advice: "Choose a shorter name.",
    mistake: loading("long", { change: ({ place }) => ({ name: "long".repeat(20) + place }) }),
    remedies: [loading("long", { change: ({ place }) => ({ name: `long${place}` }) })],
  },
  {
    advice: "Rename one of them.",
    mistake: loading("same", { change: () => ({ name: "same" }) }),
    remedies: [loading("same", { change: ({ place }) => ({ name: `same${place}` }) })],
  },
  {
    advice: "Select it, or choose another key.",
    mistake: loading("keyed", { key: ["code"], change: ({ place }) => ({ take: place === 1 }) }),
    remedies: [
      loading("keyed", { key: ["code"] }),
      loading("keyed_else", { key: ["weight"], change: ({ place }) => ({ take: place === 1 }) }),
    ],
  },
  {
    advice: "Correct the settings or the file, or load the rest and save rejects to a file.",
    mistake: loading("misfit", { change: ({ place }) => (place === 0 ? { type: "integer" } : {}) }),
    remedies: [
      loading("misfit"),
      loading("misfit_file", {
        content: "code,weight\n1,2\n",
        change: ({ place }) => (place === 0 ? { type: "integer" } : {}),
      }),
      loading("misfit_rest", {
        misfits: "reject",
        change: ({ place }) => (place === 0 ? { type: "integer" } : {}),
      }),
    ],
  },
  {
    advice: "Wait until it is done. Nothing was loaded.",
    mistake: () =>
      bench.admin(async (client) => {
        await client.query("BEGIN");
        await client.query("SELECT pg_advisory_xact_lock(hashtextextended($1, 7))", ['"imported"."waited"']);
        try {
          await loading("waited")();
        } finally {
          await client.query("ROLLBACK");
        }
      }),
    remedies: [loading("waited")],
  },
  {
    advice: "Choose another name, or append to it, or replace it.",
    mistake: after("CREATE TABLE imported.there (code text, weight float8)", loading("there")),
    remedies: [loading("there_too"), loading("there", { mode: "replace" })],
  },
  {
    advice: "Load it as a new table.",
    mistake: loading("fresh", { mode: "append" }),
    remedies: [loading("fresh", { mode: "new" })],
  },
  {
    advice: "Rename the columns or leave them out. The table has: code, heft.",
    mistake: async () => {
      await loading("fitted", { change: ({ place }) => ({ name: ["code", "heft"][place]! }) })();
      return loading("fitted", { mode: "append" })();
    },
    remedies: [
      loading("fitted", { mode: "append", change: ({ place }) => ({ name: ["code", "heft"][place]! }) }),
      loading("fitted", { mode: "append", change: ({ place }) => ({ take: place === 0 }) }),
    ],
  },
  {
    advice: "Choose another key, or none. Nothing was loaded.",
    mistake: loading("repeats", { content: AGAIN, key: ["code"] }),
    remedies: [
      loading("repeats", { content: AGAIN, key: ["weight"] }),
      loading("repeats_unkeyed", { content: AGAIN }),
    ],
  },
  {
    advice: "is missing in some rows. Choose another key, or none.",
    mistake: loading("gaps", { content: GAPS, key: ["code"] }),
    remedies: [loading("gaps", { content: GAPS, key: ["weight"] })],
  },
  {
    advice: "Drop them first, or append instead. Nothing was loaded.",
    mistake: async () => {
      await loading("seen")();
      await bench.sql("CREATE VIEW imported.seen_by AS SELECT * FROM imported.seen");
      return loading("seen", { mode: "replace" })();
    },
    remedies: [
      loading("seen", { mode: "append" }),
      after("DROP VIEW imported.seen_by", loading("seen", { mode: "replace" })),
    ],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about files and imports is left untried", () => {
  const advice = adviceIn(["src/core/files", "src/runs/import", "src/warehouse/postgres/load-target.ts"]);
  // Folders, definitions of tables, archives and several files at once have tests of their own.
  const here = advice.filter(({ place }) => !/table-definition|folder|unpack|several/.test(place));
  expect(situations.untried(here)).toEqual([]);
});
