import { loadGrammar } from "../../expression/parse";
import { unwrap } from "../../problem";
import { proposeJoinedColumns, proposeJoinShape } from "../proposal/propose-join";
import type { ColumnOutline, TableOutline } from "../proposal/outline";
import type { ValueType } from "../../value-type";
import { parsePipeline } from "../parse";
import { checkPipeline } from "../../plan/check";
import { columnsTaken, joinTable, prefixFor, type TakenRows } from "./join-table";

beforeAll(() => loadGrammar());

const column = (name: string, type: ValueType, distinct: number): ColumnOutline => ({
  name,
  type,
  declared: type,
  missing: 0,
  distinct,
});
const outline = (columns: readonly ColumnOutline[], more: Partial<TableOutline> = {}): TableOutline => ({
  rows: 100,
  whole: true,
  close: 100,
  columns,
  keys: [],
  ...more,
});
const HERE = [
  { name: "well", type: "integer" },
  { name: "depth", type: "double precision" },
] as const;
const ASSAYS = outline([
  column("well", "integer", 20),
  column("substance", "text", 5),
  column("level", "double precision", 90),
]);

test.each([
  ["the key here, of another kind of number", ASSAYS, [{ here: "well", there: "well" }], "spread"],
  [
    "a table with a key of its own",
    outline([column("well", "bigint", 100), column("yield", "integer", 30)], { keys: [["well"]] }),
    [{ here: "well", there: "well" }],
    "row",
  ],
  [
    "a column in which all values are distinct",
    outline([column("depth", "numeric", 100), column("rock", "text", 4)]),
    [{ here: "depth", there: "depth" }],
    "row",
  ],
  [
    "a table without a text to spread by",
    outline([column("well", "integer", 20), column("flow", "real", 80)]),
    [{ here: "well", there: "well" }],
    "summary",
  ],
  ["a column of the same name that cannot be compared", outline([column("well", "text", 20)]), [], "row"],
] as const)("%s", (_, table, pairs, shape) => {
  const found = proposeJoinedColumns(HERE, ["well"], table);
  expect(found).toEqual(pairs);
  expect(
    proposeJoinShape(
      table,
      found.map(({ there }) => there),
    ),
  ).toBe(shape);
});

const FILE = `ravlen: 1
name: wells
strands:
  - name: wells
    from: field.wells
    steps:
      # the deep ones
      - do: filter
        where: depth > 10
roles: {key: [well], target: {column: yield, kind: number}}
rows: {from: wells}
`;
const CATALOG = [
  {
    table: "wells",
    columns: [
      ["well", "integer"],
      ["depth", "double precision"],
      ["yield", "double precision"],
      ["level_iron", "real"],
    ],
  },
  {
    table: "assays",
    columns: [
      ["well id", "integer"],
      ["substance", "text"],
      ["level", "double precision"],
    ],
  },
].map(({ table, columns }) => ({
  schema: "field",
  table,
  columns: columns.map(([name, type]) => ({
    name: name!,
    type: type as ValueType,
    declared: type!,
    nullable: true,
  })),
}));
const NAMES = ["well", "depth", "yield", "level_iron"];

test.each<readonly [string, TakenRows, readonly string[]]>([
  ["rows as they are", { shape: "row", columns: ["substance"] }, ["substance"]],
  [
    "a column for every value, with a prefix where a name is taken",
    { shape: "spread", by: "substance", values: ["iron", "salt"], aggregate: "avg", column: "level" },
    ["assays_level_iron", "assays_level_salt"],
  ],
  [
    "counts of values",
    { shape: "spread", by: "substance", values: ["iron"], aggregate: "count", column: "" },
    ["rows_iron"],
  ],
  ["a summary", { shape: "summary", aggregate: "max", columns: ["level"] }, ["max_level"]],
  ["a count", { shape: "summary", aggregate: "count", columns: [] }, ["rows"]],
])("%s: the file that comes out is good, and has these columns", (_, taken, names) => {
  const table = {
    table: "field.assays",
    strand: "assays",
    pairs: [{ here: "well", there: "well id" }],
    taken,
  };
  const text = unwrap(joinTable(FILE, { strand: 0, position: 1 }, table, NAMES));
  expect(text).toContain("      # the deep ones\n      - do: filter\n        where: depth > 10\n");
  const prefix = prefixFor(table, NAMES) ?? "";
  expect(columnsTaken(table).map((name) => `${prefix}${name}`)).toEqual(names);
  const plan = unwrap(checkPipeline(unwrap(parsePipeline(text)), { tables: CATALOG }));
  const main = plan.strands.find(({ name }) => name === "wells");
  expect([...main!.output.keys()].filter((name) => !NAMES.includes(name))).toEqual(names);
});
