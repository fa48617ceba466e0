import { readFileSync } from "node:fs";
import { loadGrammar } from "../expression/parse";
import { parsePipeline } from "../pipeline/parse";
import { unwrap } from "../problem";
import { describeModel, type Described } from "./description";

beforeAll(() => loadGrammar());

const described = (change: (text: string) => string = (text) => text): Described => ({
  file: unwrap(parsePipeline(change(readFileSync("demo/uncollected-72h.yaml", "utf8")))).file,
  number: 3,
  candidate: "plain <b>logistic</b>",
  learner: "Base rate",
  settings: { kind: "mean" },
  runTime: new Date("2026-06-30T21:40:00Z"),
  trainingRows: 47_000,
  leftOut: 0,
  holdoutRows: 11_700,
  sources: [
    {
      schema: "larkmere",
      table: "parcels",
      columns: [{ name: "weight_g", declared: "integer", type: "integer" }],
    },
  ],
  model: {
    algorithm: "base_rate",
    outputs: [0.2],
    fit: { rows: 47_000, passes: [], converged: true, numbersOut: 1 },
  } as unknown as Described["model"],
  task: { kind: "binary" },
  metrics: { auc: 0.8123456, log_loss: 0.4 },
  judgement: null,
  without: [],
  state: "in service",
  note: null,
  truth: { answered: 8343, figures: { auc: 0.8041 } },
  service: [
    {
      at: new Date("2026-07-01T08:00:00Z"),
      by: "Ada",
      reason: "better | and simpler",
      what: "put in service",
    },
  ],
});

test("it says what the version is for, on what data, how good it is, and who stands for it", () => {
  const text = describeModel(described());
  for (const part of [
    "# uncollected-72h, version 3",
    "**Will this parcel still be in its locker 72 hours after delivery?**",
    "47,000 rows as of 2026-06-30",
    "| larkmere.parcels | weight\\_g |",
    "| AUC | 0.8123 | – | – |",
    "AUC at least 0.8, is met",
    "8,343 have an actual value by now: AUC 0.8041",
    "- `reminders_sent`: Reminders go out",
    "- 2026-07-01: put in service by Ada: better \\| and simpler",
  ])
    expect(text).toContain(part);
});

test("what people wrote is text, never markup", () => {
  const text = describeModel(
    described((file) =>
      file.replace("row: One delivered parcel.", 'row: "<script>x</script> [a](http://b) *c*"'),
    ),
  );
  expect(text).not.toContain("<script>");
  expect(text).toContain("&lt;script>x&lt;/script> \\[a\\](http://b) \\*c\\*");
  expect(text).toContain("plain &lt;b>logistic&lt;/b>");
});
