import { STEP_KINDS } from "@/core/steps";
import { found } from "./add-step";

const said = STEP_KINDS.map((each) => ({ kind: each.kind, title: each.title, about: each.help.about }));

test.each([
  ["join", "join"],
  ["keep columns", "keep"],
  ["fill", "fill"],
  ["filter", "filter"],
  ["what was known", "join_latest"],
  ["pivot", "pivot"],
  ["sql", "sql"],
  ["one row of many", "aggregate"],
  ["duplicates", "deduplicate"],
])("typing %s finds %s first", (typed, kind) => expect(found(said, typed)[0]!.kind).toBe(kind));

test("what nothing says is not found", () => expect(found(said, "zebra")).toEqual([]));
