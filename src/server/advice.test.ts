import { table } from "@/core/relation/relation";
import { randomUUID } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { GET as holdoutPage } from "@/app/api/models/[id]/holdout/route";
import { GET as exportTable } from "@/app/api/export/table/route";
import { POST as sendFile } from "@/app/api/imports/route";
import { doImport } from "@/runs/import/job";
import { openQueue } from "@/runs/queue";
import { acknowledgeAlert, listAlerts, raiseAlert } from "@/store/alerts";
import { discardDraft, draftOf, keepDraft } from "@/store/drafts";
import { addImport, claimImport, endImport } from "@/store/imports";
import { listModels, modelById, type ModelRow } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { setDemoState, wishDemoTime } from "@/store/settings";
import { setTextsAside, textsAsideOf } from "@/store/texts-aside";
import { adviceIn } from "../../testing/advice/scan";
import { first } from "../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labFile, labTable } from "../../testing/lab";
import { until } from "../../testing/installation";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { savePipeline, takeAlertOn } from "./actions";
import { askDraft } from "./draft-questions";
import { keepThreshold, saveParts } from "./file-actions";
import { fetchTextBack } from "./draft-actions";
import { lookAtImportAgain, startLoads } from "./import-actions";
import { goOnWithRun, letDemoTimePass } from "./operating-actions";
import { saveAndTrain, startTrial } from "./training-actions";

/** Pages are not served here, so none is to be made anew. */
jest.mock("next/cache", () => ({ revalidatePath: () => undefined }));

/** What the web server's own answers advise, followed. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
let folder: string;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  folder = mkdtempSync(path.join(tmpdir(), "ravlen-server-advice-"));
  process.env["RAVLEN_HOME"] = folder;
  // The web server's connections, as its pages share them.
  Object.assign(globalThis, {
    ravlenOpened: Promise.resolve({ context: bench.context, lookedAt: Infinity }),
    ravlenBoss: Promise.resolve(boss),
  });
  await bench.sql(labTable({ rows: 400 }));
  await bench.save(labFile());
  await bench.train("lab");
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
  rmSync(folder, { recursive: true, force: true });
});

const answer = async (response: Promise<Response>): Promise<unknown> => (await response).json();
const sending = (name: string) => () =>
  answer(
    sendFile(
      new Request(`http://127.0.0.1/api/imports?name=${name}`, {
        method: "POST",
        body: new Blob(["code\na\n"]).stream(),
        duplex: "half",
      } as RequestInit),
    ),
  );

/** Sends a file while so many megabytes are taken. */
const limited = (megabytes: string) => async (): Promise<unknown> => {
  process.env["RAVLEN_UPLOAD_MB"] = megabytes;
  try {
    return await sending("wares.csv")();
  } finally {
    delete process.env["RAVLEN_UPLOAD_MB"];
  }
};

const LONG = { schema: "public", table: "many" };

/** Exports a table while as many exports run as may, of which nobody takes anything; or when they have ended. */
const exporting = (busy: boolean) => async (): Promise<unknown> => {
  const { warehouse } = bench.context;
  await bench.sql(
    "CREATE TABLE IF NOT EXISTS public.many AS SELECT id FROM generate_series(1, 1000000) AS id",
  );
  const running = await Promise.all(
    Array.from({ length: busy ? warehouse.exports.most : 0 }, () =>
      warehouse.exports.stream(
        { relation: table(LONG, ["id"]), runTime: new Date().toISOString(), columns: ["id"] },
        "csv",
      ),
    ),
  );
  const response = await exportTable(
    new Request("http://127.0.0.1/api/export/table?schema=lab&table=rows&format=csv"),
  );
  const said: unknown = response.ok ? await response.text() : await response.json();
  for (const stream of running) stream.destroy();
  await until("the exports to end", () => Promise.resolve(warehouse.exports.running() === 0));
  return said;
};

const newest = async (): Promise<ModelRow> => {
  const { db } = bench.context.store;
  const [row] = await listModels(db, (await findPipeline(db, "lab"))!.id);
  return (await modelById(db, row!.id))!;
};
const looking = async (): Promise<unknown> =>
  answer(
    holdoutPage(new Request("http://127.0.0.1/api/models/1/holdout"), {
      params: Promise.resolve({ id: String((await newest()).id) }),
    }),
  );

const imported = (taken: boolean) => async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const id = crypto.randomUUID();
  await addImport(db, { id, name: "wares.csv", path: path.join(folder, "wares.csv"), bytes: 7 });
  await claimImport(db, id, "test");
  if (!taken) await endImport(db, id, { state: "failed", problems: [] });
  return lookAtImportAgain(id, {});
};

/** Takes an alert on, which somebody else may have taken on already. */
const takingOn = (title: string, taken: boolean) => async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const { id } = (await findPipeline(db, "lab"))!;
  await raiseAlert(db, { matter: title, kind: "blocked", pipelineId: id, title, problems: [] });
  const alert = (await listAlerts(db, 1)).find((found) => found.title === title)!;
  if (taken) await acknowledgeAlert(db, alert.id, "Ada");
  return takeAlertOn(alert.id, "Bo");
};
const goingOn = (kind: "train" | "score", delivery?: string) => async (): Promise<unknown> => {
  const run = await bench.run(kind, "lab", delivery === undefined ? {} : { delivery });
  return goOnWithRun(run.id);
};

const drafting = async (): Promise<void> => {
  const { db } = bench.context.store;
  const { id } = (await findPipeline(db, "lab"))!;
  const { text, number } = (await newestVersion(db, id))!;
  await keepDraft(db, { pipelineId: id, text: `${text}# more\n`, basedOn: number, revision: 0 });
};
const savingDraft = async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const { text, basedOn } = (await draftOf(db, (await findPipeline(db, "lab"))!.id))!;
  return savePipeline({ text, note: "from the Braid", basedOn, expectedName: "lab" });
};
const goingBack = async (): Promise<void> =>
  discardDraft(bench.context.store.db, (await findPipeline(bench.context.store.db, "lab"))!.id);
const savingFolds = (count: number) => () =>
  saveParts({ pipeline: "lab", note: "other folds", parts: { folds: { count } } });
const asking = (text: string) => () => askDraft("counts", { text, strand: "rows", after: 1 });
/** Fetches a text back that is kept, or is not. */
const fetching = (kept: boolean) => async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const { id: pipelineId } = (await findPipeline(db, "lab"))!;
  const { text } = (await newestVersion(db, pipelineId))!;
  await setTextsAside(db, [{ pipelineId, text, basedOn: 1, whose: "mine" }]);
  const [newestText] = await textsAsideOf(db, pipelineId);
  const fetched = await fetchTextBack(newestText!.id + (kept ? 0 : 1));
  await discardDraft(db, pipelineId);
  return fetched;
};

/** Loads a file with others that was looked at, or was not yet. */
const loadingSeveral = (seen: boolean) => async (): Promise<unknown> => {
  const { db } = bench.context.store;
  const file = path.join(folder, "several.csv");
  writeFileSync(file, "code\na\n");
  const { id } = await addImport(db, { id: randomUUID(), name: "several.csv", path: file, bytes: 7 });
  if (seen) await doImport(bench.context, id, "test");
  return startLoads({ files: [{ id, table: "several" }], together: false, misfits: "stop" });
};
const SITUATIONS: readonly Situation[] = [
  { advice: "Choose one from the list.", mistake: fetching(false), remedies: [fetching(true)] },
  {
    advice: "Wait until all files are analysed.",
    mistake: loadingSeveral(false),
    remedies: [loadingSeveral(true)],
  },
  { advice: "Choose a file.", mistake: sending(""), remedies: [sending("wares.csv")] },
  {
    advice: "Load it from the command line: ./ravlen import FILE. Or raise RAVLEN_UPLOAD_MB.",
    // Seven bytes are more than that. What the command line imports, runs/import/import.test shows.
    mistake: limited("0.000001"),
    remedies: [limited("1")],
  },
  {
    advice: "Wait until one of them ends. Nothing was written.",
    mistake: exporting(true),
    remedies: [exporting(false)],
  },
  {
    advice: "Retrain to create a new one.",
    mistake: async () => {
      await bench.sql(`DROP TABLE scratch.${(await newest()).data.holdoutTable}`);
      return looking();
    },
    remedies: [
      async () => {
        await bench.train("lab");
        return looking();
      },
    ],
  },
  {
    advice: "Wait, or upload the file again.",
    mistake: imported(true),
    remedies: [imported(false)],
  },
  {
    advice: "It was already taken over, or it has cleared. Reload the page.",
    mistake: takingOn("Blocked for long", true),
    remedies: [takingOn("Blocked since now", false)],
  },
  {
    advice: "Only a failed run can be resumed. Reload the page.",
    mistake: goingOn("train"),
    remedies: [goingOn("score", "unknown")],
  },
  {
    advice: "Wait until it stops.",
    mistake: async () => {
      await setDemoState(bench.context.store.db, { scale: 1, until: TEST_NOW, wish: TEST_NOW });
      return letDemoTimePass(1);
    },
    remedies: [
      first(
        () => wishDemoTime(bench.context.store.db, null),
        () => letDemoTimePass(1),
      ),
    ],
  },
  {
    advice: "Save them in the Braid, or go back to the newest version there; then change this.",
    mistake: first(drafting, savingFolds(3)),
    remedies: [first(savingDraft, savingFolds(3)), first(drafting, goingBack, savingFolds(4))],
  },
  {
    advice: "Reload the page to see existing deliveries.",
    mistake: first(goingBack, () => keepThreshold("lab", "gone", 0.4)),
    remedies: [() => keepThreshold("lab", "desk", 0.4)],
  },
  {
    advice: "Reload the page, and train the saved version.",
    mistake: first(goingBack, () => saveAndTrain("lab")),
    remedies: [() => startTrial({ pipeline: "lab" }), first(drafting, () => saveAndTrain("lab"))],
  },
  {
    advice: "Fix the file first.",
    mistake: asking(labFile().replace("strands:", "strand:")),
    remedies: [asking(labFile())],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice of the web server is left untried", () => {
  // A disk that is full, and another installation beside this one, are seen by hand.
  const advice = adviceIn(["src/server", "src/app"]).filter(
    ({ text }) => !/^(Free disk space|Start it separately)/.test(text),
  );
  expect(situations.untried(advice)).toEqual([]);
});
