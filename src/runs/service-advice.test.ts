import { listModels } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { listBehind } from "@/store/publications";
import { adviceIn } from "../../testing/advice/scan";
import { benchActions, first, ready } from "../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labTable, type LabFileOptions } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { reconcileFunctions } from "./reconcile";
import { saveFile } from "./save-file";
import { putInService, retire, takeBack } from "./service";

/** What serving and publishing advise, followed: whoever does it has a version in service, with its functions. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 600 }));
  await bench.sql(labTable({ table: "lab.many" }));
  await bench.sql(`CREATE TABLE lab.spotted AS SELECT *, CASE WHEN id % 3 > 0 THEN point(1, id) END AS spot FROM lab.rows;
    DO $$ BEGIN CREATE ROLE advised_desk; CREATE ROLE advised_clerk; EXCEPTION WHEN duplicate_object THEN NULL; END $$`);
});
afterAll(() => bench.close());

const { training, sql } = benchActions(() => bench);
const saving =
  (name: string, more: LabFileOptions = {}) =>
  () =>
    saveFile(bench.context, ready(name, more));
const version = async (pipeline: string, number: number): Promise<number> => {
  const { db } = bench.context.store;
  const found = await listModels(db, (await findPipeline(db, pipeline))!.id);
  return found.find((model) => model.number === number)!.id;
};
const serving = (pipeline: string, number: number) => async () =>
  putInService(bench.context, await version(pipeline, number), {});
const retiring = (pipeline: string, number: number) => async () =>
  retire(bench.context, await version(pipeline, number));
const takingBack = (pipeline: string, number: number) => async () =>
  takeBack(bench.context, await version(pipeline, number));

const placed = (name: string, before: string, column: string) => () =>
  bench.save(
    ready(name, {
      ...FUNCTIONS,
      from: "lab.spotted",
      steps: `- {do: derive, columns: {placed: ${column} is not null}}\n- {do: drop, columns: [${column}]}`,
    }).replace("      - {do: fill", `${before}      - {do: fill`),
  );

const FUNCTIONS: LabFileOptions = { more: "functions: {}" };
const foreign = (name: string): string =>
  `CREATE FUNCTION predictions.predict_${name}() RETURNS integer LANGUAGE sql AS 'SELECT 1'; ALTER FUNCTION predictions.predict_${name}() OWNER TO "${bench.warehouseName}_writer"`;
const LARGE: LabFileOptions = {
  ...FUNCTIONS,
  from: "lab.many",
  settings: "{trees: 250, least_rows: 1, depth: 20}",
};
const forest = (name: string, more: LabFileOptions): string =>
  ready(name, more).replace("logistic_regression", "random_forest");

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Fix that. They are retried every minute, and Health shows a warning until they match.",
    mistake: first(
      saving("behind"),
      training("behind"),
      sql(() => foreign("behind")),
      saving("behind", FUNCTIONS),
    ),
    remedies: [
      async () => {
        await bench.sql("DROP FUNCTION predictions.predict_behind()");
        await reconcileFunctions(bench.context);
        expect(await listBehind(bench.context.store.db)).toEqual([]);
        const { id } = (await findPipeline(bench.context.store.db, "behind"))!;
        expect((await newestVersion(bench.context.store.db, id))!.number).toBe(2);
      },
    ],
  },
  {
    advice: "Restore it first, or retrain.",
    mistake: first(
      saving("retired"),
      training("retired"),
      training("retired"),
      retiring("retired", 1),
      serving("retired", 1),
    ),
    remedies: [
      first(takingBack("retired", 1), serving("retired", 1)),
      first(training("retired"), serving("retired", 3)),
    ],
  },
  {
    advice: "Compare both, and put the better one in service.",
    mistake: first(saving("decided"), training("decided"), training("decided"), async () =>
      putInService(bench.context, await version("decided", 2), {}, await version("decided", 1)),
    ),
    remedies: [serving("decided", 1), serving("decided", 2)],
  },
  {
    advice: "Put another version in service first.",
    mistake: first(saving("served"), training("served"), training("served"), retiring("served", 2)),
    remedies: [first(serving("served", 1), retiring("served", 2))],
  },
  {
    advice: "Rename the function or the pipeline. Nothing was changed.",
    mistake: first(
      saving("named", FUNCTIONS),
      sql(() => foreign("named")),
      training("named"),
      serving("named", 1),
    ),
    remedies: [
      first(sql("ALTER FUNCTION predictions.predict_named() RENAME TO mine"), serving("named", 1)),
      first(saving("named_else", FUNCTIONS), training("named_else"), serving("named_else", 1)),
    ],
  },
  {
    advice: 'Have its owner run GRANT USAGE ON SCHEMA "predictions" TO "advised_desk"; and publish again.',
    mistake: first(
      saving("granted", { more: "functions: {grant_to: [advised_desk]}" }),
      training("granted"),
      sql("ALTER SCHEMA predictions OWNER TO advised_clerk"),
      sql(() => `GRANT USAGE, CREATE ON SCHEMA predictions TO "${bench.warehouseName}_writer"`),
      serving("granted", 1),
    ),
    remedies: [first(sql('GRANT USAGE ON SCHEMA "predictions" TO "advised_desk"'), serving("granted", 1))],
  },
  {
    advice: "Take functions out of the file, or train a smaller model.",
    mistake: first(() => bench.save(forest("large", LARGE)), training("large"), serving("large", 1)),
    remedies: [
      first(
        () => bench.save(forest("large", { ...LARGE, settings: "{trees: 5, depth: 3}" })),
        training("large"),
        serving("large", 2),
      ),
      first(() => bench.save(forest("large", { ...LARGE, more: "" })), serving("large", 1)),
    ],
  },
  {
    advice: "Cast it to text or a number in an earlier step.",
    mistake: first(placed("spotted", "", "spot"), training("spotted"), serving("spotted", 1)),
    remedies: [
      first(
        placed("spotted", "      - {do: derive, columns: {place: cast(spot as text)}}\n", "place"),
        training("spotted"),
        serving("spotted", 2),
      ),
    ],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about service and functions is left untried", () => {
  const sources = ["src/runs/publish.ts", "src/runs/service.ts", "src/warehouse/postgres/functions.ts"];
  expect(situations.untried(adviceIn(sources))).toEqual([]);
});
