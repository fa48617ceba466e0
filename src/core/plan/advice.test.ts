import { EXPRESSION_ADVICE, SELECT_ADVICE } from "../../../testing/advice/expressions";
import { fileOf, type AdviceCase } from "../../../testing/advice/file";
import { DELIVERY_ADVICE } from "../../../testing/advice/deliveries";
import { FILE_ADVICE, LEARNING_ADVICE } from "../../../testing/advice/plans";
import { adviceIn } from "../../../testing/advice/scan";
import { SHAPE_ADVICE } from "../../../testing/advice/shapes";
import { VALUE_ADVICE } from "../../../testing/advice/values";
import { DEMO_CATALOG } from "../../../testing/catalog";
import { loadGrammar } from "../expression/parse";
import { parsePipeline } from "../pipeline/parse";
import type { Problem } from "../problem";
import { checkPipeline } from "./check";

beforeAll(() => loadGrammar());

/** The demo's tables, and one more with the columns of the parcels. */
const CATALOG = {
  tables: DEMO_CATALOG.tables.flatMap((table) =>
    table.table === "parcels" ? [table, { ...table, table: "parcels_more" }] : [table],
  ),
};

function problemsOf(piece: AdviceCase[1]): readonly Problem[] {
  const parsed = parsePipeline(typeof piece === "string" ? piece : fileOf(piece));
  const checked = parsed.ok ? checkPipeline(parsed.value, CATALOG) : parsed;
  return checked.ok ? checked.value.warnings : checked.problems;
}

const CASES = [
  ...EXPRESSION_ADVICE,
  ...SELECT_ADVICE,
  ...SHAPE_ADVICE,
  ...VALUE_ADVICE,
  ...FILE_ADVICE,
  ...LEARNING_ADVICE,
  ...DELIVERY_ADVICE,
];
const given = new Set<string>();

test("a file without mistakes has no problems but columns that are no features", () => {
  expect(new Set(problemsOf({}).map((found) => found.code))).toEqual(new Set(["not_a_feature"]));
});

test.each(CASES.map((advised, index) => [advised[0], index] as const))(
  "who follows the advice of %s gets rid of it (%i)",
  (code, index) => {
    const [, wrong, right] = CASES[index]!;
    const found = problemsOf(wrong).filter((problem) => problem.code === code);
    expect(found.map((problem) => problem.hint)).toContainEqual(expect.any(String));
    for (const { hint } of found) if (hint !== undefined) given.add(hint);
    const left = problemsOf(right);
    expect(left.filter((problem) => problem.severity === "error")).toEqual([]);
    const messages = new Set(found.map((problem) => problem.message));
    expect(left.filter((problem) => messages.has(problem.message))).toEqual([]);
  },
);

/** What gives its advice to a run or an edit; runs/training/advice.test, share.test, runs/draft/before-training.test, runs/delivery-advice.test and edit.test follow it. */
const ELSEWHERE =
  /(plan\/contract|plan\/obstacles|plan\/filled-parts|plan\/share|steps\/category-answers|steps\/text-terms|steps\/finite-only|pipeline\/edit\/)|Leave it unencoded/;

test("no advice about files is left untried", () => {
  const folders = ["pipeline", "plan", "steps", "select", "expression"].map((name) => `src/core/${name}`);
  const untried = adviceIn(folders)
    .filter(({ place, text }) => !ELSEWHERE.test(`${place} ${text}`))
    .filter(({ pattern }) => ![...given].some((hint) => pattern.test(hint)));
  expect(untried.map(({ place, text }) => `${place} ${text}`)).toEqual([]);
});
