import { CompletionContext, type CompletionResult } from "@codemirror/autocomplete";
import { EditorState } from "@codemirror/state";
import { completionOf } from "./completion";

const step = (kind: string, title: string, settings: readonly string[]) => ({
  kind,
  title,
  about: "",
  words: [],
  missing: "",
  settings: settings.map((name) => ({ name, help: "", required: true, initial: undefined })),
});
const words = {
  steps: [
    step("fill", "Fill missing values", ["columns", "with"]),
    step("drop", "Drop columns", ["columns"]),
  ],
  parts: [
    { name: "strands", help: "" },
    { name: "roles", help: "" },
  ],
  tables: ["larkmere.parcels"],
  functions: [{ name: "coalesce", usage: "coalesce(value, ...)" }],
};

const columns = (text: string) =>
  Promise.resolve(
    text.includes("from: larkmere.parcels")
      ? [{ name: "weight_g", table: "parcels", declared: "integer" }]
      : [],
  );

/** What is offered where a text has a bar. */
async function offered(text: string, explicit = true): Promise<readonly string[]> {
  const place = text.indexOf("|");
  const state = EditorState.create({ doc: text.replace("|", "") });
  const result = (await completionOf(
    words,
    columns,
  )(new CompletionContext(state, place, explicit))) as CompletionResult | null;
  return result?.options.map((option) => option.label) ?? [];
}

test.each([
  ["kinds of steps after do", "steps:\n  - do: f|", ["fill", "drop"]],
  ["tables after from", "  from: lark|", ["larkmere.parcels"]],
  ["parts of the file at the margin", "ro|", ["strands", "roles"]],
  ["settings of the step a line belongs to", "steps:\n  - do: fill\n    wi|", ["columns", "with"]],
  [
    "settings of the nearest step only",
    "steps:\n  - do: fill\n    columns: [a]\n  - do: drop\n    col|",
    ["columns"],
  ],
  [
    "columns and functions in a value",
    "  from: larkmere.parcels\n      where: coal|",
    ["weight_g", "coalesce"],
  ],
  ["functions alone without a table", "      where: coal|", ["coalesce"]],
])("%s", async (_what, text, labels) => {
  expect(await offered(text)).toEqual(labels);
});

test("nothing is offered unasked where nothing has been typed", async () => {
  expect(await offered("  |", false)).toEqual([]);
});
