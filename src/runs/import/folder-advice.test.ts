import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { readDefinitions, readTableDefinitions } from "@/core/files/table-definition";
import { adviceIn } from "../../../testing/advice/scan";
import { Situations, type Situation } from "../../../testing/advice/situation";
import { openBench, type Bench } from "../../../testing/warehouse";
import { defineTables, loadFolder } from "./folder";

/** What folders of files and definitions of tables advise, followed: whoever does it has tables. */
let bench: Bench;
let folder: string;
beforeAll(async () => {
  bench = await openBench();
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-folder-advice-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await bench.close();
});

function put(name: string, content: string): string {
  const file = path.join(folder, name);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, content);
  return file;
}

const watch = {
  onProgress: () => undefined,
  signal: new AbortController().signal,
  rejectsFile: "",
};

let folders = 0;
/** Loads a folder of files; `:` in a name stands for a number of its own, so that tables are new. */
const loadingFolder = (files: Readonly<Record<string, string>>) => async (): Promise<unknown> => {
  folders += 1;
  const own = (text: string): string => text.replaceAll(":", String(folders));
  for (const [name, content] of Object.entries(files)) put(`folder${folders}/${own(name)}`, own(content));
  return loadFolder(bench.context.warehouse, path.join(folder, `folder${folders}`), "stop", watch);
};
const PLACES = "CREATE TABLE places: (id int PRIMARY KEY, name text);";
const PLACE_ROWS = "id,name\n1,north\n2,south\n";
const WORKS = `${PLACES} CREATE TABLE works: (id int PRIMARY KEY, place int REFERENCES places: (id));`;

const leftOf = (text: string) => () => Promise.resolve({ problems: readDefinitions(text).left });
const defined = (text: string) => async () => readTableDefinitions(text);
const FLOORS = "CREATE TABLE floors (id int PRIMARY KEY, name text)";

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Put it next to the data files.",
    mistake: loadingFolder({ "places:.csv": PLACE_ROWS }),
    remedies: [loadingFolder({ "places:.csv": PLACE_ROWS, "all.sql": PLACES })],
  },
  {
    advice: "Defined: places",
    mistake: loadingFolder({ "sites.csv": PLACE_ROWS, "all.sql": PLACES }),
    remedies: [loadingFolder({ "places:.csv": PLACE_ROWS, "all.sql": PLACES })],
  },
  {
    advice: "The table has: id, name.",
    mistake: loadingFolder({ "places:.csv": "a,b\n1,2\n", "all.sql": PLACES }),
    remedies: [loadingFolder({ "places:.csv": PLACE_ROWS, "all.sql": PLACES })],
  },
  {
    advice: "Correct the data. Nothing was loaded.",
    mistake: loadingFolder({ "places:.csv": PLACE_ROWS, "works:.csv": "id,place\n1,3\n", "all.sql": WORKS }),
    remedies: [
      loadingFolder({ "places:.csv": PLACE_ROWS, "works:.csv": "id,place\n1,2\n", "all.sql": WORKS }),
    ],
  },
  {
    advice: "Choose another name in the file. Nothing was created.",
    mistake: async () => {
      await defineTables(bench.context.warehouse, FLOORS);
      return defineTables(bench.context.warehouse, FLOORS);
    },
    remedies: [() => defineTables(bench.context.warehouse, FLOORS.replace("floors", "storeys"))],
  },
  {
    advice: "Only CREATE TABLE and COMMENT ON TABLE statements are read.",
    mistake: defined("MAKE TABLE floors"),
    remedies: [defined(FLOORS), defined(`${FLOORS}; COMMENT ON TABLE floors IS 'all of them'`)],
  },
  {
    advice: "Write CREATE TABLE statements.",
    mistake: defined("-- nothing yet"),
    remedies: [defined(FLOORS)],
  },
  {
    advice: "Use a check step in the pipeline instead.",
    mistake: leftOf("CREATE TABLE floors (id int CHECK (id > 0))"),
    remedies: [leftOf("CREATE TABLE floors (id int)")],
  },
  {
    advice: "Choose a number, text, date, time, boolean, uuid or json type.",
    mistake: defined("CREATE TABLE floors (id int, shape polygon)"),
    remedies: ["numeric(10, 2)", "text", "date", "time", "boolean", "uuid", "json"].map((type) =>
      defined(`CREATE TABLE floors (id int, shape ${type})`),
    ),
  },
  {
    advice: "Use columns, keys and references only.",
    mistake: defined("CREATE TABLE floors (LIKE walls)"),
    remedies: [defined("CREATE TABLE floors (id int PRIMARY KEY, wall int REFERENCES walls (id))")],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about folders and definitions is left untried", () => {
  const advice = adviceIn([
    "src/core/files/table-definition.ts",
    "src/runs/import/folder.ts",
    "src/warehouse/postgres/defined-tables.ts",
  ]);
  expect(situations.untried(advice)).toEqual([]);
});
