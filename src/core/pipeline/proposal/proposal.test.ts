import fc from "fast-check";
import type { ColumnProfile } from "../../evaluate/table-profile";
import { unwrap } from "../../problem";
import type { ValueType } from "../../value-type";
import { newPipelineText } from "../edit/new-pipeline";
import { parsePipeline } from "../parse";
import type { ColumnOutline, TableOutline } from "./outline";
import { proposeTarget } from "./propose-target";
import { proposeKey } from "./propose-key";
import { isPipelineName, proposeName } from "./propose-name";
import { proposePreparation } from "./propose-preparation";

const ROWS = 1000;
const column = (name: string, type: ValueType, distinct: number, missing = 0): ColumnOutline => ({
  name,
  type,
  declared: type,
  distinct,
  missing,
});
const outline = (columns: readonly ColumnOutline[], more: Partial<TableOutline> = {}): TableOutline => ({
  rows: ROWS,
  whole: true,
  close: ROWS,
  keys: [],
  columns,
  ...more,
});

test.each([
  [
    "the table's primary key",
    outline([column("a", "integer", ROWS)], { keys: [["b", "c"], ["a"]] }),
    ["b", "c"],
  ],
  [
    "a name like an identifier's before others",
    outline([column("street", "text", ROWS), column("house_nr", "integer", ROWS)]),
    ["house_nr"],
  ],
  ["no measurement", outline([column("weight", "double precision", ROWS)]), undefined],
  ["no column with gaps", outline([column("id", "integer", ROWS - 1, 1)]), undefined],
  ["two columns together", outline([column("site", "text", 9)], { pair: ["site", "day"] }), ["site", "day"]],
  ["nothing for one row", outline([column("id", "integer", 1)], { close: 1, rows: 1 }), undefined],
] as const)("the key: %s", (_what, table, key) => {
  expect(proposeKey(table)?.columns).toEqual(key);
});

const profile = (values: Readonly<Record<string, number>>, distinct?: number): ColumnProfile => ({
  column: "y",
  rows: ROWS,
  missing: 0,
  distinct: distinct ?? Object.keys(values).length,
  smallest: null,
  largest: null,
  quartiles: null,
  mean: null,
  histogram: [],
  topValues: Object.entries(values)
    .map(([value, rows]) => ({ value, rows }))
    .toSorted((left, right) => right.rows - left.rows),
});

test.each([
  ["boolean", profile({ true: 5, false: 9 }), { kind: "binary" }],
  ["integer", profile({ "0": 5, "1": 9 }), { kind: "binary", positive: 1 }],
  ["integer", profile({ "2": 5, "10": 9 }), { kind: "binary", positive: 10 }],
  ["text", profile({ nein: 5, Ja: 9 }), { kind: "binary", positive: "Ja" }],
  ["text", profile({ kept: 900, left: 100 }), { kind: "binary", positive: "left" }],
  ["text", profile({ a: 1, b: 1, c: 1 }), { kind: "classes" }],
  ["numeric", profile({}, 700), { kind: "number" }],
  ["integer", profile({ "1": 3, "2": 3, "3": 3 }), { kind: "number" }],
  [
    "text",
    profile({ x: 1 }, 51),
    { kind: "classes", trouble: expect.stringContaining("51 different values") },
  ],
  ["text", profile({ x: 1 }), { kind: "classes", trouble: expect.stringContaining("same value") }],
  [
    "double precision",
    profile({}, 0),
    { kind: "number", trouble: expect.stringContaining("missing in all rows") },
  ],
  ["date", profile({}, 300), { kind: "classes", trouble: expect.stringContaining("the type date") }],
] as const)("an answer of %s with %j is %j", (type, found, proposal) => {
  expect(proposeTarget(found, type)).toEqual(proposal);
});

test("gaps are filled, texts are encoded, and what says nothing is excluded; key and answer stay as they are", () => {
  const found = proposePreparation(
    outline([
      column("id", "integer", ROWS),
      column("y", "integer", 2, 7),
      column("size", "numeric", 90, 4),
      column("wet", "boolean", 2, 1),
      column("town", "text", 12, 3),
      column("street", "text", 60),
      column("remark", "text", 800, 100),
      column("same", "integer", 1),
      column("seldom", "integer", 1, 900),
      column("empty", "text", 0, ROWS),
      column("seen", "timestamptz", 600),
      column("until", "timestamptz", 500),
    ]),
    ["id", "y"],
  );
  expect(found.map(({ columns, step, because }) => [step?.["do"] ?? because, columns])).toEqual([
    ["fill", ["size", "seldom"]],
    ["fill", ["wet"]],
    ["group_rare", ["street"]],
    ["encode", ["town", "street"]],
    ["nearly all values are different", ["remark"]],
    ["the same value in all rows", ["same"]],
    ["no values", ["empty"]],
    ["timestamptz, not a number or text", ["seen", "until"]],
  ]);
  const { file } = unwrap(
    parsePipeline(
      newPipelineText({
        name: "small",
        question: "",
        table: "a.b",
        key: ["id"],
        target: { column: "y" },
        kind: "number",
        preparation: found,
      }),
    ),
  );
  expect(file.strands[0]!.steps.map((step) => step["do"])).toEqual(["fill", "fill", "group_rare", "encode"]);
  expect(file.roles.exclude.map((exclusion) => exclusion.column)).toEqual([
    "remark",
    "same",
    "empty",
    "seen",
    "until",
  ]);
  expect(file.candidates.map((candidate) => candidate.algorithm)).toEqual(["linear_regression", "base_rate"]);
});

test("what was not looked at may hold other values: nothing is called constant by a part of the rows", () => {
  const columns = [column("same", "integer", 1)];
  for (const part of [{ whole: false }, { close: 100 }])
    expect(proposePreparation(outline(columns, part), [])).toEqual([]);
});

test("a proposed name is one that a pipeline can have, and that none has", () => {
  const text = fc.string({ unit: "grapheme", minLength: 1, maxLength: 80 });
  fc.assert(
    fc.property(text, text, (table, answer) => {
      const first = proposeName(table, answer, []);
      if (first === "") return;
      const second = proposeName(table, answer, [first]);
      expect([isPipelineName(first), isPipelineName(second), first === second]).toEqual([true, true, false]);
    }),
  );
  expect(proposeName("Orders 2026", "bezahlt?", [])).toBe("orders-2026-bezahlt");
});
