import { choicesSchema, firstChoices, FROM_EXPRESSION, FROM_REGIONS, withDependents } from "./choices";
import { findingsOf, firstStop } from "./findings";
import { derivedColumn, proposePipeline, targetOf } from "./proposal";
import type { TableOutline } from "@/core/pipeline/proposal/outline";

const column = (name: string, type: "integer" | "text", distinct: number) => ({
  name,
  type,
  declared: type,
  nullable: true,
  missing: 0,
  distinct,
});
const OUTLINE = {
  columns: [column("crate", "integer", 40), column("target", "text", 2), column("moss", "integer", 9)],
  keys: [["crate"]],
  rows: 40,
  close: 40,
  whole: true,
} as unknown as TableOutline;
const CHOSEN = { ...firstChoices("yard.crates"), target: "target" };

/** What the form by itself says is wrong, by field. */
const mistakesOf = (choices: typeof CHOSEN, taken: readonly string[] = []) =>
  Object.fromEntries(
    choicesSchema(taken)
      .safeParse(choices)
      .error?.issues.map(({ path, message }) => [path.join("."), message]) ?? [],
  );

const READ = { taken: [], key: undefined, file: [], values: { state: "read" } } as const;

test("another table forgets what depended on the one before, and nothing else", () => {
  const filled = {
    ...CHOSEN,
    question: "Which crates?",
    key: ["crate"],
    name: "crates",
    kind: "classes" as const,
  };
  expect({ ...filled, ...withDependents({ table: "yard.barrels" }) }).toEqual({
    ...firstChoices("yard.barrels"),
    question: "Which crates?",
    name: "crates",
  });
  expect(withDependents({ question: "?" })).toEqual({ question: "?" });
});

test("the form names what is missing field by field, and a name that is taken", () => {
  expect(mistakesOf(firstChoices(""))).toEqual({ table: "Choose a table." });
  expect(mistakesOf({ ...CHOSEN, target: "" })).toEqual({ target: "Choose the column to predict." });
  expect(mistakesOf({ ...CHOSEN, target: FROM_EXPRESSION, expression: " ", key: [] })).toEqual({
    expression: "Enter the expression for the target.",
    key: "Choose the columns that identify one row.",
  });
  expect(mistakesOf({ ...CHOSEN, name: "crates" }, ["crates"])).toEqual({
    name: "A pipeline named “crates” already exists.",
  });
});

test("regions need two columns, a region, and two labels", () => {
  const corners = [
    [0, 0],
    [1, 0],
    [1, 1],
  ] as const;
  const drawn = (x: string, y: string, labels: readonly string[], otherwise = "") =>
    mistakesOf({
      ...CHOSEN,
      target: FROM_REGIONS,
      drawn: { x, y, entity: "", regions: labels.map((label) => ({ label, points: corners })), otherwise },
    })["drawn"];
  expect(drawn("moss", "", ["wet"])).toBe("Choose both columns.");
  expect(drawn("moss", "moss", ["wet"])).toBe("Choose two different columns.");
  expect(drawn("moss", "crate", [])).toBe("Draw a region and enter its label.");
  expect(drawn("moss", "crate", ["wet", "wet"])).toMatch(/two labels/);
  expect(drawn("moss", "crate", ["wet"], "dry")).toBeUndefined();
});

test("a target by expression gets a column that the table does not have", () => {
  expect(derivedColumn(OUTLINE)).toBe("target 2");
  expect(targetOf({ ...CHOSEN, target: FROM_EXPRESSION, expression: "moss > 3" }, OUTLINE)).toEqual({
    expression: "moss > 3",
    into: "target 2",
  });
});

test("what stops is said from the top of the form; a key that repeats does not stop", () => {
  const proposal = proposePipeline(CHOSEN, { outline: OUTLINE, profile: undefined, taken: [] });
  const repeated = { ...READ, key: { missing: 0, repeated: 3 } };
  const warned = findingsOf(CHOSEN, {}, proposal, repeated);
  expect(warned.key).toMatchObject({ words: expect.stringContaining("3 values are shared"), stops: false });
  expect(firstStop(warned)).toBeUndefined();
  expect(
    firstStop(findingsOf(CHOSEN, { name: "Enter a name.", table: "Choose a table." }, proposal, READ)),
  ).toEqual({
    words: "Choose a table.",
    stops: true,
  });
});

test("while the target's values are read nothing is created; where they cannot be, its kind is asked for", () => {
  const proposal = proposePipeline(CHOSEN, { outline: OUTLINE, profile: undefined, taken: [] });
  expect(firstStop(findingsOf(CHOSEN, {}, proposal, { ...READ, values: { state: "reading" } }))?.words).toBe(
    "Reading its values …",
  );
  const unreadable = { ...READ, values: { failure: "It took too long." } };
  expect(firstStop(findingsOf(CHOSEN, {}, proposal, unreadable))?.words).toBe("Choose the kind of target.");
  expect(firstStop(findingsOf({ ...CHOSEN, kind: "classes" }, {}, proposal, unreadable))).toBeUndefined();
});
