import { STEP_KINDS } from "@/core/steps";
import { found } from "./add-step";

const said = STEP_KINDS.map(({ kind, title, help: { about, words } }) => ({ kind, title, about, words }));

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
  ["One-hot", "encode"],
  ["dummy", "encode"],
  ["group by", "aggregate"],
  ["standardise", "scale"],
  ["normalize", "scale"],
  ["impute", "fill"],
  ["null", "filter"],
  ["target encoding", "target_mean"],
  ["merge", "join"],
  ["union", "stack"],
  ["cast", "convert"],
  ["outlier", "clip"],
  ["quantile", "bin"],
  ["window", "lag"],
  ["moving av", "rolling"],
  ["lag", "lag"],
  ["tf-idf", "text_terms"],
])("typing %s finds %s first", (typed, kind) => expect(found(said, typed)[0]!.kind).toBe(kind));

test("all kinds that a word is used for are found", () => {
  const kinds = (typed: string): readonly string[] => found(said, typed).map(({ kind }) => kind);
  expect(kinds("null")).toEqual(expect.arrayContaining(["filter", "fill"]));
  expect(kinds("window")).toEqual(expect.arrayContaining(["lag", "rolling"]));
  expect(kinds("lookup")).toEqual(expect.arrayContaining(["join", "join_latest", "map"]));
  expect(kinds("encoding")).toEqual(
    expect.arrayContaining(["encode", "ordinal", "target_mean", "frequency"]),
  );
});

test("what nothing says is not found", () => expect(found(said, "zebra")).toEqual([]));
