import { binary, call, cast, column, double, integer, isNotNull } from "@/core/expression/ast";
import { printRelation } from "./relation";
import { prune } from "@/core/relation/prune";
import {
  aggregateRows,
  common,
  fence,
  filter,
  keepColumns,
  label,
  outputColumns,
  project,
  table,
  withColumns,
  type Relation,
} from "@/core/relation/relation";

const parcels = label(
  table({ schema: "s", table: "parcels" }, ["id", "site", "weight", "status"]),
  "parcels",
);
const sites = label(table({ schema: "s", table: "Sites" }, ["site", "town"]), "sites");
const join = (left: Relation, right: Relation): Relation => ({
  kind: "join",
  how: "left",
  left,
  right,
  on: [{ left: "site", right: "site" }],
  take: [{ from: "town", name: "town" }],
});
const print = (relation: Relation): string =>
  printRelation(relation, { runTime: "2026-06-30T00:00:00Z" }).replace(/\s+/g, " ");

test("projections, filters and joins of plain columns fold into one SELECT", () => {
  const kept = filter(parcels, isNotNull(column("status")));
  const joined = join(kept, sites);
  expect(print(keepColumns(joined, ["id", "town"]))).toBe(
    'SELECT "parcels"."id", "Sites"."town" FROM "s"."parcels" AS "parcels" LEFT JOIN "s"."Sites" AS "Sites" ON "parcels"."site" = "Sites"."site" WHERE "parcels"."status" IS NOT NULL',
  );
});

test("something costly that is read twice is computed once, under the step's name", () => {
  const costly = label(
    withColumns(parcels, [{ name: "root", expression: call("sqrt", column("weight")) }]),
    "roots",
  );
  const sql = print(
    project(costly, [{ name: "twice", expression: binary(column("root"), "+", column("root")) }]),
  );
  expect(sql.match(/sqrt/g)).toHaveLength(1);
  expect(sql).toMatch(/^WITH "roots" AS \( SELECT .* \) SELECT "root" \+ "root" AS "twice" FROM "roots"$/);
  expect(print(project(costly, [{ name: "once", expression: column("root") }]))).toBe(
    'SELECT sqrt("weight") AS "once" FROM "s"."parcels"',
  );
});

test("a filter after an outer join stays after it, and an aggregate is never folded into", () => {
  const joined = filter(join(parcels, sites), isNotNull(column("town")));
  expect(print(keepColumns(joined, ["id"]))).toContain('WHERE "Sites"."town" IS NOT NULL');
  const counted = label(
    aggregateRows(
      parcels,
      ["site"],
      [{ name: "n", expression: { kind: "call", name: "count", args: [], star: true } }],
    ),
    "per site",
  );
  expect(print(filter(counted, binary(column("n"), ">", integer(1))))).toBe(
    'WITH "per site" AS ( SELECT "site", count(*) AS "n" FROM "s"."parcels" GROUP BY "site" ) SELECT "site", "n" FROM "per site" WHERE "n" > 1',
  );
});

test("a side that was computed is joined as itself, and a right side with a filter keeps it inside", () => {
  const heavy = label(filter(sites, binary(column("town"), "<>", column("site"))), "other towns");
  const sql = print(keepColumns(join(parcels, heavy), ["id", "town"]));
  expect(sql).toMatch(/^WITH "other towns" AS \( SELECT .* WHERE "town" <> "site" \) SELECT/);
  expect(sql).not.toMatch(/ON .* WHERE/);
});

test("a fence keeps its rows in a sub-select of their own", () => {
  const fenced = fence(
    label(project(parcels, [{ name: "x", expression: binary(column("weight"), "*", double(2)) }]), "doubled"),
  );
  const sql = print(
    project(fenced, [
      { name: "a", expression: column("x") },
      { name: "b", expression: binary(column("x"), "+", column("x")) },
    ]),
  );
  expect(sql).toBe(
    'SELECT "x" AS "a", "x" + "x" AS "b" FROM ( SELECT "weight" * 2::double precision AS "x", pg_is_in_recovery() AS "ravlen_fence" FROM "s"."parcels" ) AS "doubled"',
  );
});

test("two strands or steps of one name do not clash", () => {
  const again = label(
    filter(label(aggregateRows(parcels, ["site"], []), "same"), isNotNull(column("site"))),
    "same",
  );
  const sql = print(aggregateRows(label(aggregateRows(again, ["site"], []), "same"), ["site"], []));
  expect(sql).toContain('WITH "same" AS');
  expect(sql).toContain('"same 2" AS');
});

test("what nobody reads is not asked for; rows never change", () => {
  const wide = filter(
    withColumns(join(parcels, sites), [{ name: "unused", expression: call("sqrt", column("weight")) }]),
    isNotNull(column("status")),
  );
  const pruned = prune(wide, new Set(["id"]));
  const sql = print(keepColumns(pruned, ["id"]));
  expect(sql).not.toContain("weight");
  expect(sql).not.toContain('"town"');
  // The join may drop or double rows, the filter drops them: both stay.
  expect(sql).toContain("LEFT JOIN");
  expect(sql).toContain('"status" IS NOT NULL');
  expect(outputColumns(prune(wide, new Set(["id", "town"])))).toEqual(expect.arrayContaining(["id", "town"]));
});

test("rows that several parents read are written once, and every parent has its own alias for them", () => {
  const kept = common(filter(parcels, isNotNull(column("status"))), "kept");
  const perSite = aggregateRows(
    kept,
    ["site"],
    [{ name: "rows", expression: { ...call("count"), star: true } }],
  );
  const joined: Relation = {
    kind: "join",
    how: "inner",
    left: prune(kept, new Set(["id"])),
    right: perSite,
    on: [{ left: "site", right: "site" }],
    take: [{ from: "rows", name: "rows" }],
  };
  const sql = print(keepColumns(joined, ["id", "rows"]));
  expect(sql.match(/"status" IS NOT NULL/g)).toHaveLength(1);
  expect(sql).toContain('FROM "kept" AS "kept 2"');
});

test("a page of groups needs no SELECT around the groups; a page of a page does", () => {
  const sites = aggregateRows(parcels, ["site"], []);
  const page: Relation = {
    kind: "limit",
    input: sites,
    order: [{ expression: column("site") }],
    rows: 5,
    offset: 10,
  };
  const sql =
    'SELECT "site" FROM "s"."parcels" GROUP BY "site" ORDER BY "site" ASC NULLS LAST LIMIT 5 OFFSET 10';
  expect(print(page)).toBe(sql);
  const reversed = {
    ...page,
    input: page,
    order: [{ expression: column("site"), descending: true }],
    offset: 0,
  };
  expect(print(reversed)).toBe(
    `WITH "parcels 2" AS ( ${sql} ) SELECT "site" FROM "parcels 2" ORDER BY "site" DESC NULLS LAST LIMIT 5`,
  );
});

test("columns of a page are replaced in place, and its order still means the columns of the source", () => {
  const page: Relation = {
    kind: "limit",
    input: keepColumns(parcels, ["id", "weight"]),
    order: [{ expression: column("weight") }],
    rows: 3,
  };
  const texts = project(page, [{ name: "weight", expression: cast(column("weight"), "text") }]);
  expect(print(texts)).toBe(
    'SELECT CAST("weight" AS text) AS "weight" FROM "s"."parcels" ORDER BY "parcels"."weight" ASC NULLS LAST LIMIT 3',
  );
});
