import { findPipeline } from "@/store/pipelines";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { functionName, publishFunctions, withdrawFunctions } from "./publish";
import { publishedFunctions } from "./published";
import { saveFile } from "./save-file";
import { putInService } from "./service";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
  await bench.admin((client) =>
    client.query(
      `DO $$ BEGIN IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'desk') THEN CREATE ROLE desk; END IF; IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'others') THEN CREATE ROLE others; END IF; END $$; REVOKE USAGE ON SCHEMA predictions FROM PUBLIC; GRANT USAGE ON SCHEMA predictions TO others`,
    ),
  );
});
afterAll(() => bench.close());

const functions = async (): Promise<string[]> =>
  (
    await bench.sql("SELECT proname FROM pg_proc WHERE pronamespace = 'predictions'::regnamespace ORDER BY 1")
  ).map((row) => String(row["proname"]));
const more = "functions: {grant_to: [desk]}";

test("functions say what deliveries say: for all rows to score, and for one row given by hand", async () => {
  const steps =
    "- {do: derive, columns: {x3: x1 * x1}}\n- {do: encode, columns: [cat], unseen: other}\n- {do: scale, columns: [x1]}";
  await bench.save(
    labFile({
      name: "Asked-often",
      more,
      steps,
      delivery: "{name: desk, table: predictions.asked, threshold: 0.4}",
    }),
  );
  const model = await bench.train("Asked-often");
  expect(await publishFunctions(bench.context, model.id)).toEqual([
    "predict_asked_often_v1",
    "predict_asked_often_v1_rows",
    "predict_asked_often",
    "predict_asked_often_rows",
  ]);
  expect(await bench.run("score", "Asked-often")).toMatchObject({ state: "done", rows: 400 });
  const same =
    "SELECT count(*)::int AS rows, count(*) FILTER (WHERE f.prediction = p.prediction AND abs(f.probability - p.probability) < 1e-12)::int AS equal FROM predictions.asked p";
  expect(await bench.sql(`${same} JOIN predictions.predict_asked_often_rows() f USING (id)`)).toEqual([
    { rows: 400, equal: 400 },
  ]);
  // One row at a time, with the columns as they are before the first step that learns.
  const [asked] = await bench.sql(
    "SELECT pg_get_function_arguments('predictions.predict_asked_often'::regproc) AS names, obj_description('predictions.predict_asked_often'::regproc) AS comment",
  );
  expect(asked).toEqual({
    names: "x1 double precision, x2 double precision, cat text",
    comment: expect.stringContaining(
      "Ravlen pipeline Asked-often, version 1: the prediction for one row",
    ) as unknown,
  });
  expect(
    await bench.sql(
      `${same} JOIN lab.rows r USING (id), LATERAL predictions.predict_asked_often(x1 => r.x1, x2 => r.x2, cat => r.cat) f`,
    ),
  ).toEqual([{ rows: 400, equal: 400 }]);
  // What people are told to call can be called as it stands.
  const told = await publishedFunctions(
    bench.context,
    (await findPipeline(bench.context.store.db, "Asked-often"))!,
  );
  expect(told.map(({ name }) => name)).toEqual([
    "predict_asked_often",
    "predict_asked_often_rows",
    "predict_asked_often_v1",
    "predict_asked_often_v1_rows",
  ]);
  for (const { name, example } of told)
    expect([name, (await bench.sql(example)).length]).toEqual([name, name.endsWith("_rows") ? 400 : 1]);
  expect(told[0]).toMatchObject({
    parameters: [
      { name: "x1", type: "double precision" },
      { name: "x2", type: "double precision" },
      { name: "cat", type: "text" },
    ],
    returns: expect.stringMatching(/^TABLE\(prediction boolean, probability double precision\)$/),
  });
  expect(
    (
      await bench.sql("SELECT probability FROM predictions.predict_asked_often(NULL, NULL, 'never seen')")
    )[0]!["probability"],
  ).toEqual(null);
});

test("only those who are named may call, and the functions follow the service until they are withdrawn", async () => {
  await bench.save(
    labFile({ name: "followed", more, delivery: "{name: desk, table: predictions.followed}" }),
  );
  const [one, two] = [await bench.train("followed"), await bench.train("followed")];
  await publishFunctions(bench.context, one.id);
  const asAs = (role: string) =>
    bench.admin(async (client) => {
      await client.query(`BEGIN; SET LOCAL ROLE ${role}`);
      try {
        return (
          await client.query<{ n: number }>(
            "SELECT count(*)::int AS n FROM predictions.predict_followed_rows()",
          )
        ).rows[0]!.n;
      } finally {
        await client.query("ROLLBACK");
      }
    });
  // Neither may read the table that the function reads.
  expect(await asAs("desk")).toBe(400);
  await expect(asAs("others")).rejects.toThrow(/permission denied/);
  await publishFunctions(bench.context, two.id);
  const comment = async (): Promise<unknown> =>
    (await bench.sql("SELECT obj_description('predictions.predict_followed'::regproc) AS says"))[0]!["says"];
  expect(await comment()).toContain("version 2");
  expect((await functions()).filter((functionName) => functionName.includes("followed"))).toEqual([
    "predict_followed",
    "predict_followed_rows",
    "predict_followed_v1",
    "predict_followed_v1_rows",
    "predict_followed_v2",
    "predict_followed_v2_rows",
  ]);
  await withdrawFunctions(bench.context, "followed", 1);
  await withdrawFunctions(bench.context, "followed");
  expect((await functions()).filter((functionName) => functionName.includes("followed"))).toEqual([
    "predict_followed_v2",
    "predict_followed_v2_rows",
  ]);
});

test("a function of somebody else is never replaced, and a pipeline without the wish has none", async () => {
  expect(functionName("Ab c-d", 3)).toBe("predict_ab_c_d_v3");
  await bench.sql(
    `CREATE FUNCTION predictions.predict_theirs() RETURNS integer LANGUAGE sql AS 'SELECT 1'; ALTER FUNCTION predictions.predict_theirs() OWNER TO "${bench.warehouseName}_writer"`,
  );
  await bench.save(labFile({ name: "theirs", more, delivery: "{name: desk, table: predictions.theirs}" }));
  const model = await bench.train("theirs");
  await expect(publishFunctions(bench.context, model.id)).rejects.toMatchObject({
    problems: [expect.objectContaining({ code: "name_taken" })],
  });
  expect((await functions()).filter((functionName) => functionName.includes("theirs"))).toEqual([
    "predict_theirs",
  ]);
  await withdrawFunctions(bench.context, "theirs");
  expect((await functions()).filter((functionName) => functionName.includes("theirs"))).toEqual([
    "predict_theirs",
  ]);
  await bench.save(labFile({ name: "silent", delivery: "{name: desk, table: predictions.silent}" }));
  expect(await publishFunctions(bench.context, (await bench.train("silent")).id)).toEqual([]);
});

test("the functions follow a file that was saved: its threshold, its roles, and whether it wants any", async () => {
  const text = (threshold: number, wish: string) =>
    labFile({
      name: "saved",
      more: wish,
      delivery: `{name: desk, table: predictions.saved, threshold: ${threshold}}`,
    });
  await bench.save(text(0.5, ""));
  const model = await bench.train("saved");
  await putInService(bench.context, model.id, {});
  const ours = async () => (await functions()).filter((functionName) => functionName.includes("saved"));
  const positive = async () =>
    (
      await bench.sql(
        "SELECT count(*) FILTER (WHERE prediction)::int AS n FROM predictions.predict_saved_rows()",
      )
    )[0]!["n"] as number;
  expect(await ours()).toEqual([]);
  expect((await saveFile(bench.context, text(0.5, more))).ok).toBe(true);
  expect(await ours()).toEqual([
    "predict_saved",
    "predict_saved_rows",
    "predict_saved_v1",
    "predict_saved_v1_rows",
  ]);
  const before = await positive();
  expect((await saveFile(bench.context, text(0.1, more))).ok).toBe(true);
  expect(await positive()).toBeGreaterThan(before);
  expect(await saveFile(bench.context, text(0.1, "functions: {grant_to: [nobody_here]}"))).toMatchObject({
    ok: false,
    problems: [{ code: "functions_behind", message: expect.stringContaining("nobody_here") as string }],
  });
  expect(await ours()).toHaveLength(4);
  expect((await saveFile(bench.context, text(0.1, ""))).ok).toBe(true);
  expect(await ours()).toEqual([]);
  expect(
    await saveFile(
      bench.context,
      labFile({
        name: "saved",
        delivery: "{name: desk, table: predictions.saved, routes: [{when: prediction, table: lab.yes}]}",
      }),
    ),
  ).toMatchObject({ ok: false, problems: [{ code: "delivery_schema" }] });
});
