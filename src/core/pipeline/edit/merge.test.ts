import fc from "fast-check";
import { unwrap } from "../../problem";
import { readYaml } from "../yaml";
import { fieldDifferences, withTheirs } from "./merge";

const MINE = `ravlen: 1
name: both
# a remark that stays
strands:
  - name: rows
    from: a.b
    steps:
      - {do: fill, name: gaps, columns: [x], with: median}
      - do: filter
        where: x > 1
roles:
  key: [id]
  target: {column: y, kind: number}
rows: {from: rows}
holdout: {share: 0.2, seed: 1}
`;
const THEIRS = MINE.replace("median", "mean")
  .replace("x > 1", "x > 2")
  .replace("share: 0.2, seed: 1", "share: 0.3")
  .replace("rows: {from: rows}", "rows: {from: rows}\nbrief: {question: Why?}");

test("what two people changed is told field by field, with the names of steps", () => {
  const found = unwrap(fieldDifferences(MINE, THEIRS));
  expect(found.map(({ label, mine, theirs }) => [label, mine, theirs])).toEqual([
    ["strands, “rows”, steps, “gaps”, with", "median", "mean"],
    ["strands, “rows”, steps, 2 (filter), where", "x > 1", "x > 2"],
    ["holdout, share", 0.2, 0.3],
    ["holdout, seed", 1, undefined],
    ["brief", undefined, { question: "Why?" }],
  ]);
  expect(unwrap(fieldDifferences(MINE, MINE))).toEqual([]);
});

test("whichever fields are taken from the other, the result says exactly these as the other does, and remarks stay", () => {
  const found = unwrap(fieldDifferences(MINE, THEIRS));
  fc.assert(
    fc.property(fc.subarray([...found]), (chosen) => {
      const text = unwrap(withTheirs(MINE, chosen));
      expect(text).toContain("# a remark that stays");
      const left = unwrap(fieldDifferences(text, THEIRS)).map(({ label }) => label);
      expect(left).toEqual(found.filter((field) => !chosen.includes(field)).map(({ label }) => label));
      const back = unwrap(fieldDifferences(MINE, text)).map(({ label }) => label);
      expect(back.sort()).toEqual(chosen.map(({ label }) => label).sort());
    }),
  );
  expect(readYaml(unwrap(withTheirs(MINE, found))).toJS()).toEqual(readYaml(THEIRS).toJS());
});

test("a step that one of them added makes the steps one field; a text that is no YAML is not compared", () => {
  const added = MINE.replace("roles:", "      - {do: drop, columns: [z]}\nroles:");
  expect(unwrap(fieldDifferences(MINE, added)).map(({ label }) => label)).toEqual(["strands, “rows”, steps"]);
  expect(fieldDifferences(MINE, "a: [")).toMatchObject({
    ok: false,
    problems: [{ code: "unreadable_file" }],
  });
});
