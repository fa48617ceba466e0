import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { readListRequest } from "./list-request";
import { modelPage } from "@/store/models";
import { pipelinePage } from "@/store/pipeline-list";
import { findRuns, findVersions } from "@/store/find";
import { newestTables } from "@/store/file-tables";
import { runPage } from "@/store/run-list";
import { listSchemas, tablePage } from "./table-list";
import { tableUses } from "./table-uses";

/** Pages of lists, held against what was put there. */
let bench: Bench;
const NAMES = ["Ash harvest", "ash 100%_kept", "elm", "oak"] as const;
const CODES = ["ash-harvest", "ash-kept", "elm", "oak"] as const;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 300 }));
  for (const [place, name] of CODES.entries())
    await bench.save(labFile({ name, more: `description: "${NAMES[place]!}"` }));
  await bench.train("oak");
  await bench.run("score", "oak");
  await bench.run("score", "elm");
});
afterAll(() => bench.close());

const ALL = { words: "", filter: undefined, offset: 0, limit: 50 } as const;
const db = () => bench.context.store.db;
const pipelineNames = async (wanted: Partial<Parameters<typeof pipelinePage>[1]>) => {
  const { entries, all } = await pipelinePage(db(), { ...ALL, ...wanted });
  return { names: entries.map(({ name }) => name), all };
};

test("pipelines are found by each word of name and description, whatever signs it holds, and narrowed by how they stand", async () => {
  expect(await pipelineNames({})).toEqual({ names: [...CODES], all: 4 });
  expect((await pipelineNames({ words: "ASH harvest" })).names).toEqual(["ash-harvest"]);
  expect((await pipelineNames({ words: "100%_" })).names).toEqual(["ash-kept"]);
  expect((await pipelineNames({ words: "%" })).names).toEqual(["ash-kept"]);
  expect((await pipelineNames({ words: "'; DROP" })).names).toEqual([]);
  expect((await pipelineNames({ filter: "in_service" })).names).toEqual(["oak"]);
  expect((await pipelineNames({ filter: "not_in_service" })).all).toBe(3);
  expect((await pipelineNames({ filter: "failed" })).names).toEqual(["elm"]);
  expect(await pipelineNames({ offset: 2, limit: 1 })).toEqual({ names: ["elm"], all: 4 });
  const { entries } = await pipelinePage(db(), { ...ALL, words: "oak" });
  expect(entries[0]).toMatchObject({
    version: { number: 1 },
    current: { number: 1 },
    versions: 1,
    last: { state: "done" },
  });
});

test("runs and versions are found by their pipeline and by what came of them, newest first", async () => {
  const runs = async (wanted: Partial<Parameters<typeof runPage>[1]>) => {
    const { entries, all } = await runPage(db(), { ...ALL, ...wanted });
    return { found: entries.map(({ kind, state }) => `${kind} ${state}`), all };
  };
  expect(await runs({})).toEqual({ found: ["score failed", "score done", "train done"], all: 3 });
  expect((await runs({ filter: "failed" })).found).toEqual(["score failed"]);
  expect((await runs({ filter: "train" })).found).toEqual(["train done"]);
  expect((await runs({ words: "in service" })).found).toEqual(["score failed"]);
  expect((await runs({ words: "oak", filter: "score" })).found).toEqual(["score done"]);
  expect(await runs({ offset: 1, limit: 1 })).toEqual({ found: ["score done"], all: 3 });
  const models = async (wanted: Partial<Parameters<typeof modelPage>[1]>) =>
    (await modelPage(db(), { ...ALL, ...wanted })).entries.map(({ candidate }) => candidate);
  expect(await models({})).toEqual(["plain"]);
  expect(await models({ words: "oak plain", filter: "in_service" })).toEqual(["plain"]);
  expect(await models({ filter: "starred" })).toEqual([]);
  expect(await models({ words: "elm" })).toEqual([]);
});

test("tables are found by schema, by their columns and by who uses them; what runs keep is listed only where it is asked for", async () => {
  await bench.sql("CREATE VIEW lab.tall AS SELECT *, x1 AS height FROM lab.rows WHERE x1 > 1");
  const tables = async (wanted: Partial<Parameters<typeof tablePage>[1]>) => {
    const { entries, all } = await tablePage(bench.context, { ...ALL, schema: undefined, ...wanted });
    return { names: entries.map(({ entry }) => `${entry.schema}.${entry.table}`), all };
  };
  const everything = await tables({});
  expect(everything.names).toEqual(["lab.rows", "lab.tall", "predictions.lab", "predictions.ravlen_ledger"]);
  expect(await tables({ offset: 1, limit: 1 })).toEqual({ names: ["lab.tall"], all: everything.all });
  expect((await tables({ words: "HEIGHT" })).names).toEqual(["lab.tall"]);
  expect((await tables({ words: "oak", schema: "lab" })).names).toEqual(["lab.rows"]);
  expect((await tables({ words: "oak" })).names).toEqual(["lab.rows", "predictions.lab"]);
  expect((await tables({ words: "100%" })).names).toEqual([]);
  const { scratchSchema } = bench.context.warehouse.config;
  expect((await tables({ schema: scratchSchema })).names.length).toBeGreaterThan(0);
  expect(await listSchemas(bench.context)).toEqual(["lab", "predictions", scratchSchema]);
  const { entries } = await tablePage(bench.context, { ...ALL, schema: "lab" });
  expect(entries.map(({ rows }) => rows)).toEqual([
    300,
    Number((await bench.sql("SELECT count(*) AS n FROM lab.tall"))[0]!["n"]),
  ]);
});

test("which tables a file reads and writes is read once and kept, and follows its next version", async () => {
  const { reads, writes } = await tableUses(bench.context);
  expect(reads.get("lab.rows")).toEqual([...CODES]);
  expect(writes.get("predictions.lab")).toEqual([...CODES]);
  expect((await newestTables(db())).map(({ text }) => text)).toEqual([null, null, null, null]);
  await bench.save(labFile({ name: "elm", from: "lab.tall" }));
  expect((await tableUses(bench.context)).reads.get("lab.tall")).toEqual(["elm"]);
});

test("versions and runs are found by all words of what they are called, and a run by the beginning of its identity", async () => {
  expect(await findVersions(db(), "OAK version 1", 5)).toMatchObject([
    { pipeline: "oak", candidate: "plain" },
  ]);
  expect(await findVersions(db(), "oak version 2", 5)).toEqual([]);
  const runs = await findRuns(db(), "scoring", 5);
  expect(runs.map(({ pipeline, state }) => `${pipeline} ${state}`)).toEqual(["elm failed", "oak done"]);
  expect(await findRuns(db(), runs[1]!.id.slice(0, 8), 5)).toEqual([runs[1]]);
  expect(await findRuns(db(), "scoring elm done", 5)).toEqual([]);
});

test.each([
  [{}, { words: "", filter: undefined, page: 1, offset: 0 }],
  [
    { q: "  oak ", show: "b", page: "3" },
    { words: "oak", filter: "b", page: 3, offset: 100 },
  ],
  [
    { q: ["a", "b"], show: "x", page: "-1" },
    { words: "", filter: undefined, page: 1, offset: 0 },
  ],
  [
    { q: "\0", page: "1e99" },
    { words: "", filter: undefined, page: 1, offset: 0 },
  ],
])(
  "what an address says is read, and what it says wrongly is as if it said nothing (%j)",
  (params, request) => expect(readListRequest(params, ["a", "b"])).toEqual(request),
);
