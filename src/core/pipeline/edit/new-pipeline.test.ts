import { loadGrammar } from "../../expression/parse";
import { checkPipeline } from "../../plan/check";
import { unwrap } from "../../problem";
import type { ValueType } from "../../value-type";
import { parsePipeline } from "../parse";
import { newPipelineText, type DrawnTarget } from "./new-pipeline";

beforeAll(() => loadGrammar());

const COLUMNS: Readonly<Record<string, ValueType>> = {
  reading: "integer",
  weir: "text",
  taken_at: "timestamp",
  level: "double precision",
  cloud: "double precision",
  hum: "double precision",
};
const CATALOG = {
  tables: [
    {
      schema: "river",
      table: "readings",
      columns: Object.entries(COLUMNS).map(([name, type]) => ({
        name,
        type,
        declared: type,
        nullable: true,
      })),
    },
  ],
};
const DRAWN: DrawnTarget = {
  x: "level",
  y: "cloud",
  regions: [
    {
      label: "flood",
      points: [
        [0.5, -9],
        [9, -9],
        [9, 9],
      ],
    },
  ],
  otherwise: "calm",
  into: "label",
};

const planOf = (drawn: DrawnTarget) =>
  unwrap(
    checkPipeline(
      unwrap(
        parsePipeline(
          newPipelineText({
            name: "weirs",
            question: "",
            table: "river.readings",
            key: ["reading"],
            target: { drawn },
            kind: "classes",
          }),
        ),
      ),
      CATALOG,
    ),
  );

test("labels of regions are the answer, and the columns they are drawn over are no features", () => {
  const plan = planOf({ ...DRAWN, otherwise: "calm" });
  expect(plan.file.roles.target).toMatchObject({ column: "label", kind: "classes" });
  expect(plan.features.map(({ name }) => name)).toEqual(["weir", "hum"]);
});

test("numbers of each entity are compared with its own rows before, and entities stay together", () => {
  const scales = { entity: "weir", columns: ["level", "cloud", "hum"], order: "taken_at" };
  const plan = planOf({ ...DRAWN, scales });
  expect(plan.file.strands[0]!.steps).toMatchObject([
    { do: "baseline", entity: ["weir"], past: { order: "taken_at" } },
    { do: "label_regions", colour: "weir" },
  ]);
  expect(plan.file.roles).toMatchObject({ group: "weir", time: "taken_at" });
  expect(plan.features.map(({ name }) => name)).toEqual(["hum"]);
});
