import { DEMO_CATALOG } from "../../../testing/catalog";
import type { Catalog } from "./catalog";
import { brokenProfile, brokenSources } from "./contract";
import { readProfile } from "./row-profile";

const trained = [
  {
    schema: "larkmere",
    table: "parcels",
    columns: [
      { name: "weight_g", declared: "integer", type: "integer" as const },
      { name: "carrier", declared: "text", type: "text" as const },
    ],
  },
];
const changed = (
  change: (columns: Catalog["tables"][number]["columns"]) => Catalog["tables"][number]["columns"],
): Catalog => ({
  tables: DEMO_CATALOG.tables.map((table) =>
    table.table === "parcels" ? { ...table, columns: change(table.columns) } : table,
  ),
});

test("sources as in training break nothing, nor does a column more, nor one that training did not read", () => {
  expect(brokenSources(trained, DEMO_CATALOG)).toEqual([]);
  expect(
    brokenSources(
      trained,
      changed((columns) => [
        ...columns.filter((column) => column.name !== "size_class"),
        { name: "new", declared: "text", type: "text", nullable: true },
      ]),
    ),
  ).toEqual([]);
});

test("every column that is gone or has another type is named, all at once", () => {
  const broken = brokenSources(
    trained,
    changed((columns) =>
      columns
        .filter((column) => column.name !== "carrier")
        .map((column) =>
          column.name === "weight_g" ? { ...column, declared: "numeric(9,2)", type: "numeric" } : column,
        ),
    ),
  );
  expect(broken.map((problem) => problem.code)).toEqual(["source_retyped", "source_gone"]);
  expect(broken[0]!.message).toContain("was integer in training and is numeric(9,2) now");
  expect(brokenSources(trained, { tables: [] })[0]).toMatchObject({
    code: "source_gone",
    message: expect.stringContaining("larkmere.parcels") as string,
  });
});

describe("rows to score against training rows", () => {
  const contract = {
    otherwise: "stop",
    all_unseen: "stop",
    unanswered: "stop",
    most_missing_increase: 0.1,
    most_worse: 0.1,
    most_unseen: 0.2,
    least_rows: 5,
    most_rows: 500,
    most_outside: 0.1,
  } as const;
  const before = {
    rows: 1000,
    columns: { w: { missing: 100, unseen: 0, low: 0, high: 9 }, size: { missing: 0, unseen: 0 } },
  };

  test.each([
    [
      "as before",
      { rows: 100, columns: { w: { missing: 10, unseen: 0 }, size: { missing: 0, unseen: 0 } } },
      [],
    ],
    ["a few more gaps than before", { rows: 100, columns: { w: { missing: 19, unseen: 0 } } }, []],
    ["many more gaps", { rows: 100, columns: { w: { missing: 21, unseen: 0 } } }, ["contract_missing"]],
    [
      "gaps where there were none",
      { rows: 10, columns: { size: { missing: 2, unseen: 0 } } },
      ["contract_missing"],
    ],
    [
      "many unseen categories",
      { rows: 10, columns: { size: { missing: 0, unseen: 3 } } },
      ["contract_unseen"],
    ],
    [
      "both in one column",
      { rows: 10, columns: { size: { missing: 5, unseen: 4 } } },
      ["contract_missing", "contract_unseen"],
    ],
    [
      "numbers that is unseen in training",
      { rows: 100, columns: { w: { missing: 0, unseen: 0, outside: 11 } } },
      ["contract_outside"],
    ],
    ["no rows at all", { rows: 0, columns: { w: { missing: 0, unseen: 0 } } }, ["contract_rows"]],
    ["twice as many rows as there may be", { rows: 1000, columns: {} }, ["contract_rows"]],
  ])("%s", (_what, now, codes) => {
    expect(brokenProfile(before, now, contract).map((breach) => breach.problem.code)).toEqual(codes);
  });

  test("a column of values that is unseen in training stops, whatever else is only warned of", () => {
    const now = { rows: 10, columns: { size: { missing: 3, unseen: 7 } } };
    const [breach] = brokenProfile(before, now, { ...contract, otherwise: "warn" }, true).filter(
      (found) => found.kind === "unseen",
    );
    expect(breach).toMatchObject({ stops: true, problem: { code: "contract_all_unseen" } });
    expect(breach!.problem.hint).toContain("--all-unseen warn");
    const warned = brokenProfile(before, now, { ...contract, all_unseen: "warn" });
    expect(warned.map((found) => [found.problem.code, found.stops])).toContainEqual([
      "contract_unseen",
      undefined,
    ]);
  });

  test("no advice on rows on demand names a contract that no file says", () => {
    const now = {
      rows: 10,
      columns: { w: { missing: 9, unseen: 0, outside: 1 }, size: { missing: 0, unseen: 3 } },
    };
    const hints = brokenProfile(before, now, { ...contract, most_outside: 0.01 }, true).map(
      (found) => found.problem.hint,
    );
    expect(hints).toHaveLength(3);
    expect(hints.join()).not.toContain("contract.");
  });

  test("the answer of the warehouse is read by the places of the columns, whatever they are called", () => {
    const row = { rows: 9, missing_0: 2, low_0: -1, high_0: null, missing_1: 1, unseen_1: "4", outside_1: 3 };
    expect(readProfile(row, ["rows", "größe", "not asked"])).toEqual({
      rows: 9,
      columns: { rows: { missing: 2, unseen: 0, low: -1 }, größe: { missing: 1, unseen: 4, outside: 3 } },
    });
  });
});
