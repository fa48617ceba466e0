import { readFileSync } from "node:fs";
import fc from "fast-check";
import { FUNCTIONS } from "../expression/functions";
import { unwrap, type Problem } from "../problem";
import { parse } from "yaml";
import { STEP_KINDS } from "../steps";
import { learnerReference } from "../learn/reference";
import { stepReference } from "../steps/reference";
import { diffTexts } from "./diff";
import { readSource } from "./source";
import { parsePipeline } from "./parse";
import { pipelineJsonSchema } from "./schema";
import { parseTableName, writeTableName } from "./table-name";

const problems = (text: string): readonly Problem[] => {
  const parsed = parsePipeline(text);
  return parsed.ok ? [] : parsed.problems;
};

const GOOD = `ravlen: 1
name: small
strands: [{name: rows, from: a.b}]
roles: {key: [id], target: {column: y, kind: binary}}
rows: {from: rows, train: true, score: false}
candidates: [{name: plain, algorithm: logistic_regression}]
`;

test("what is excluded has its default, and plain values are good expressions", () => {
  const { file } = unwrap(parsePipeline(GOOD));
  expect(file.holdout).toEqual({ share: 0.2, seed: 1, by: "key" });
  expect(file.rows).toEqual({ from: "rows", train: "true", score: "false" });
  expect(file.candidates[0]).toMatchObject({ engine: "auto", settings: { ridge: 0, tolerance: 1e-10 } });
  expect(file.delivery).toEqual([]);
});

test("rows with a target train and candidates are tried where the file does not say so", () => {
  const bare = GOOD.replace(", train: true, score: false", "").replace(/candidates: .*\n/, "");
  const { file } = unwrap(parsePipeline(bare.replace("column: y", 'column: "the \\"Order\\""')));
  expect(file.rows).toEqual({
    from: "rows",
    train: '"the ""Order""" is not null',
    score: '"the ""Order""" is null',
  });
  const said =
    "candidates: [{name: boosted trees, algorithm: boosted_trees}, {name: base rate, algorithm: base_rate}]";
  expect(file.candidates).toEqual(
    unwrap(parsePipeline(GOOD.replace(/candidates: .*/, said))).file.candidates,
  );
});

test.each([
  ["an empty file", "", "not_a_pipeline", 1],
  ["a list", "- a\n- b", "not_a_pipeline", 1],
  ["no format", GOOD.replace("ravlen: 1\n", ""), "missing_format", 1],
  ["a part that is missing", GOOD.replace(/roles:.*\n/, ""), "missing_setting", undefined],
  ["a value of the wrong kind", GOOD.replace("key: [id]", "key: id"), "bad_setting", 4],
  ["a value that is no choice", GOOD.replace("kind: binary", "kind: bianry"), "bad_setting", 4],
  ["a name with a slash", GOOD.replace("name: small", "name: small/er"), "bad_setting", 2],
  ["a key twice", GOOD.replace("name: small", "name: small\nname: other"), "yaml_syntax", 3],
  [
    "an anchor that grows without end",
    `ravlen: 1\na: &a [1,2,3,4,5,6,7,8,9]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b,*b,*b]\nd: [*c,*c,*c,*c,*c,*c,*c,*c,*c]`,
    "yaml_syntax",
    undefined,
  ],
])("%s is refused with its line", (_what, text, code, line) => {
  const found = problems(text);
  expect(found.map((problem) => problem.code)).toContain(code);
  if (line !== undefined) expect(found.find((problem) => problem.code === code)!.location?.line).toBe(line);
});

test("a table's name is read as it is written, quotes and dots and all", () => {
  fc.assert(
    fc.property(
      fc.string({ unit: "grapheme", minLength: 1 }),
      fc.string({ unit: "grapheme", minLength: 1 }),
      (schema, table) => {
        expect(parseTableName(writeTableName({ schema, table }))).toEqual({ schema, table });
      },
    ),
    { numRuns: 300 },
  );
  expect(parseTableName("Larkmere.Parcels")).toEqual({ schema: "Larkmere", table: "Parcels" });
  for (const bad of ["parcels", "a.b.c", "a.", ".b", 'a."b', ""]) expect(parseTableName(bad)).toBeUndefined();
});

test("a difference put together again gives both texts", () => {
  const lines = fc
    .array(fc.constantFrom("a", "b", "c: 1", "  d"), { minLength: 1, maxLength: 12 })
    .map((item) => `${item.join("\n")}\n`);
  fc.assert(
    fc.property(lines, lines, (before, after) => {
      const found = diffTexts(before, after);
      const text = (kind: "added" | "removed"): string =>
        `${found
          .filter((line) => line.kind === "same" || line.kind === kind)
          .map((line) => line.text)
          .join("\n")}\n`;
      expect(text("removed")).toBe(before);
      expect(text("added")).toBe(after);
    }),
  );
});

test("the reference of steps is the one of this version (./ravlen schema --steps > docs/steps.md), and every example in it is good", () => {
  expect(readFileSync("docs/steps.md", "utf8")).toBe(stepReference());
  expect(readFileSync("docs/learners.md", "utf8")).toBe(learnerReference());
  for (const { kind, help, settings } of STEP_KINDS)
    expect(settings.safeParse(parse(`do: ${kind}\n${help.example}`))).toMatchObject({ success: true });
});

test("the file's reference names every function", () => {
  const reference = readFileSync("docs/pipeline-file.md", "utf8");
  for (const name of Object.keys(FUNCTIONS)) expect(reference).toContain(`\`${name}\``);
});

test("the published JSON Schema is the one of this version (./ravlen schema > docs/pipeline.schema.json)", () => {
  expect(JSON.parse(readFileSync("docs/pipeline.schema.json", "utf8"))).toEqual(pipelineJsonSchema());
});

test.each([
  ["{missing: mean}", "high: 9", '"missing" is not a setting of boosted_trees.', "Available: "],
  ["{treees: 40}", "high: 9", '"treees" is not a setting of boosted_trees.', 'Did you mean "trees"?'],
  ["{trees: 40}", "hihg: 9", '"hihg" is not a setting of the step "clip".', 'Did you mean "high"?'],
])(
  "a setting that is not there is told with what it belongs to and what there is: %s, %s",
  (settings, step, message, hint) => {
    const found = parsePipeline(`ravlen: 1
name: odd
strands: [{name: rows, from: a.b, steps: [{do: clip, columns: [x], low: 1, ${step}}]}]
roles: {key: [id], target: {column: y, kind: binary}}
rows: {from: rows, train: 'true', score: 'true'}
holdout: {share: 0.2, seed: 1}
candidates: [{name: c, algorithm: boosted_trees, settings: ${settings}}]`);
    expect(found.ok ? [] : found.problems).toEqual([
      expect.objectContaining({
        code: "unknown_setting",
        message,
        hint: expect.stringContaining(hint) as string,
      }),
    ]);
  },
);

// Holding every key against every other would take minutes here.
test("a mapping of very many keys is read, and a key that appears twice is told at its line", () => {
  const keys = Array.from({ length: 40_000 }, (_, index) => `    k${index}: v`);
  const text = (lines: readonly string[]): string => `note: |\n  long\nvalues:\n${lines.join("\n")}\n`;
  expect(readSource(text(keys)).ok).toBe(true);
  const twice = readSource(text([...keys, "    k7: w"]));
  expect(twice.ok ? [] : twice.problems).toMatchObject([
    {
      code: "yaml_syntax",
      message: expect.stringContaining("k7") as string,
      location: { line: 40_004, column: 5 },
    },
  ]);
}, 60_000);
