import { between, matching } from "./pick-many";
import type { ColumnHere } from "./places";

const column = (name: string, family: ColumnHere["family"] = "number"): ColumnHere => ({
  name,
  family,
  type: family === "number" ? "integer" : "text",
  bundle: false,
  thread: name,
});
const COLUMNS = [
  column("id"),
  column("Depth_m"),
  column("width_m"),
  column("site", "text"),
  column("remark", "text"),
];
const names = (typed: string, family: ColumnHere["family"] | "any" = "any") =>
  matching(COLUMNS, { typed, family }).map(({ name }) => name);

test("columns are picked by parts of their names, by type, and by both", () => {
  expect(names("_m")).toEqual(["Depth_m", "width_m"]);
  expect(names("DEPTH, site")).toEqual(["Depth_m", "site"]);
  expect(names("", "text")).toEqual(["site", "remark"]);
  expect(names("m", "text")).toEqual(["remark"]);
  expect(names("")).toEqual([]);
});

test("a range goes from where the last one was picked, in either direction", () => {
  const order = ["a", "b", "c", "d"];
  expect(between(order, "b", "d")).toEqual(["b", "c", "d"]);
  expect(between(order, "d", "b")).toEqual(["b", "c", "d"]);
  expect(between(order, null, "c")).toEqual(["c"]);
  expect(between(order, "gone", "c")).toEqual(["c"]);
});
