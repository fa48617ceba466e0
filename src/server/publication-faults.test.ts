import { writeFileSync } from "node:fs";
import path from "node:path";
import { putInService } from "@/runs/service";
import { listModels, modelById } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { labFile, labTable } from "../../testing/lab";
import { TestInstallation, until } from "../../testing/installation";
import { readHealth } from "./health";

/** A process is killed at each moment at which the functions in the warehouse and the service do not agree. */
let place: TestInstallation;
let versions: readonly { readonly id: number; readonly number: number }[];
const file = (threshold: number): string =>
  labFile({
    more: "functions: {grant_to: []}",
    delivery: `{name: desk, table: predictions.lab, threshold: ${threshold}}`,
  });

beforeAll(async () => {
  place = await TestInstallation.open();
  await place.sql(labTable());
  await place.save(file(0.5));
  const worker = await place.startWorker();
  for (const hour of [10, 11])
    expect((await place.ended(await place.order("train", `2026-06-30T${hour}:00:00Z`))).state).toBe("done");
  await place.kill(worker);
  const { db } = place.context.store;
  versions = [...(await listModels(db, (await findPipeline(db, "lab"))!.id))].sort(
    (left, right) => left.number - right.number,
  );
  await putInService(place.context, versions[0]!.id, {});
});
afterAll(() => place.close());

/** Functions that are there, with the version that each answers with. */
async function functions(): Promise<Readonly<Record<string, string>>> {
  const rows = await place.sql(
    "SELECT proname AS name, substring(obj_description(oid) FROM 'version ([0-9]+)') AS version FROM pg_proc WHERE pronamespace = 'predictions'::regnamespace AND proname !~ '_rows$' ORDER BY 1",
  );
  return Object.fromEntries(rows.map((row) => [String(row["name"]), String(row["version"])]));
}
const wrong = async (): Promise<readonly string[]> =>
  (await readHealth(place.context)).wrong.filter((line) => line.includes("The functions of lab"));
const inService = async (): Promise<number | null> =>
  (await findPipeline(place.context.store.db, "lab"))!.inService;

/** Health tells of functions that are behind, until a worker has brought them into line. */
async function settles(): Promise<void> {
  // Functions that are just being made are no news; these have been behind for longer.
  await place.context.store.pool.query(
    "UPDATE publications SET behind_since = behind_since - interval '1 minute'",
  );
  expect(await wrong()).toHaveLength(1);
  const worker = await place.startWorker();
  await until("the functions to agree", async () => {
    const { rows } = await place.context.store.pool.query(
      "SELECT FROM publications WHERE behind_since IS NOT NULL",
    );
    return rows.length === 0;
  });
  expect(await wrong()).toEqual([]);
  await place.kill(worker);
}

/** A function of the pipeline, held so that whoever wants to drop or replace it waits. */
async function holdFunction(name: string): Promise<() => Promise<void>> {
  const [found] = await place.sql(
    `SELECT 'predictions.${name}'::regproc::oid::regprocedure::text AS signature`,
  );
  return place.hold(`ALTER FUNCTION ${String(found!["signature"])} COST 50`);
}

test("killed when the functions of a version were made and it did not serve yet: they go back to the one that serves", async () => {
  const client = await place.context.store.pool.connect();
  await client.query("BEGIN");
  await client.query("SELECT FROM model_versions WHERE id = $1 FOR UPDATE", [versions[1]!.id]);
  const command = place.act("serve", versions[1]!.id);
  await until("the functions of version 2", async () => (await functions())["predict_lab"] === "2");
  await place.kill(command);
  await client.query("ROLLBACK");
  client.release();
  expect(await inService()).toBe(versions[0]!.id);
  await settles();
  expect((await functions())["predict_lab"]).toBe("1");
  expect(await inService()).toBe(versions[0]!.id);
});

test("killed when a file was saved and the functions did not follow yet: they follow it", async () => {
  const saved = path.join(place.home, "lab.yaml");
  writeFileSync(saved, file(0.1));
  const release = await holdFunction("predict_lab");
  const { db } = place.context.store;
  const { id } = (await findPipeline(db, "lab"))!;
  const command = place.act("save", saved);
  await until("the file to be saved", async () => (await newestVersion(db, id))!.text === file(0.1));
  await place.kill(command);
  await release();
  const positive = async (): Promise<unknown> =>
    (
      await place.sql(
        "SELECT count(*) FILTER (WHERE prediction)::int AS n FROM predictions.predict_lab_rows()",
      )
    )[0]!["n"];
  const before = await positive();
  await settles();
  expect(Number(await positive())).toBeGreaterThan(Number(before));
});

test("killed when a version was retired and its functions were still there: they go", async () => {
  await putInService(place.context, versions[1]!.id, {});
  const release = await holdFunction("predict_lab_v1");
  const retiring = place.act("retire", versions[0]!.id);
  await until(
    "the version to be retired",
    async () => (await modelById(place.context.store.db, versions[0]!.id))!.retiredAt !== null,
  );
  await place.kill(retiring);
  await release();
  await settles();
  expect(await functions()).toEqual({ predict_lab: "2", predict_lab_v2: "2" });
});

test("a function that somebody dropped comes back", async () => {
  await place.sql("DROP FUNCTION predictions.predict_lab_rows()");
  const worker = await place.startWorker();
  await until("the function", async () => {
    const rows = await place.sql("SELECT FROM pg_proc WHERE proname = 'predict_lab_rows'");
    return rows.length === 1;
  });
  await place.kill(worker);
});

test("killed when nothing served any more and the functions were still there: they go", async () => {
  const release = await holdFunction("predict_lab");
  const command = place.act("withdraw", versions[1]!.id);
  await until("nothing to be in service", async () => (await inService()) === null);
  await place.kill(command);
  await release();
  expect((await functions())["predict_lab"]).toBe("2");
  await settles();
  expect(await functions()).toEqual({ predict_lab_v2: "2" });
});
