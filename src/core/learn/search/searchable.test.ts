import type { z } from "zod";
import { ALGORITHM_NAMES, ALGORITHMS } from "../algorithms";
import { namesToWrite } from "../../pipeline/edit/name-steps";
import { changePart } from "../../pipeline/edit/parts";
import { parsePipeline } from "../../pipeline/parse";
import { unwrap } from "../../problem";
import { STEP_KINDS, stepKind } from "../../steps";
import { searchableSettings, withWholeNumbers, type Searchable } from "./searchable";

const KINDS = [
  ...STEP_KINDS.map(({ kind, settings }) => [kind, settings] as const),
  ...ALGORITHM_NAMES.map((name) => [name, ALGORITHMS[name].settings] as const),
];

/** Values at the bounds of what a setting is said to take, or all of its choices. */
function valuesOf({ kind, choices, least, most }: Searchable): readonly unknown[] {
  if (kind === "choice") return choices;
  const inside = [(least ?? 0) + 1, (most ?? 1000) - 1].filter(
    (value) => value > (least ?? -Infinity) && value < (most ?? Infinity),
  );
  const numbers = inside.length > 0 ? inside : [((least ?? 0) + (most ?? 1)) / 2];
  return kind === "numbers" ? [[3]] : numbers;
}

test.each(KINDS)("%s: what is offered to a search is what its own schema takes", (_, settings) => {
  for (const searchable of searchableSettings(settings)) {
    const schema = (settings.shape as Readonly<Record<string, z.ZodType>>)[searchable.setting]!;
    for (const value of valuesOf(searchable))
      expect([searchable.setting, value, schema.safeParse(value).success]).toEqual([
        searchable.setting,
        value,
        true,
      ]);
    expect(searchable.about).not.toBe("");
  }
});

test("steps offer numbers, choices and yes or no by name, and never columns or texts", () => {
  const offered = (kind: string): Readonly<Record<string, string>> =>
    Object.fromEntries(
      searchableSettings(stepKind(kind)!.settings).map(({ setting, kind: what }) => [setting, what]),
    );
  expect(offered("fill")).toEqual({ with: "choice", indicator: "choice" });
  expect(offered("target_mean")).toEqual({ smoothing: "number", folds: "whole", keep: "choice" });
  expect(offered("scale")).toEqual({ method: "choice" });
  expect(offered("drop")).toEqual({});
  const fill = searchableSettings(stepKind("fill")!.settings).find(({ setting }) => setting === "with")!;
  expect(fill.choices).toEqual(["median", "mean", "most_frequent"]);
});

test("a range over a setting that takes whole numbers gives whole numbers, whatever the file says", () => {
  const range = { from: 2, to: 9, scale: "linear", whole: false } as const;
  const told = {
    how: "random",
    trials: 5,
    seed: 1,
    try: [
      { ...range, setting: "depth" },
      { ...range, setting: "rate" },
    ],
  } as const;
  const found = withWholeNumbers({ ...told, try: [...told.try] }, () =>
    searchableSettings(ALGORITHMS.boosted_trees.settings),
  );
  expect(found.try.map(({ whole }) => whole)).toEqual([true, false]);
});

const FILE = `ravlen: 1
name: named
strands:
  - name: rows
    from: a.b
    steps:
      # keep this remark
      - {do: fill, columns: [x], with: median}
      - do: scale
        name: even
        columns: [x]
roles: {key: [id], target: {column: y, kind: number}}
rows: {from: rows}
`;

test("a step gets the name by which it is referred to, once, and its remarks stay", () => {
  const generated = stepKind("fill")!.bind({
    do: "fill",
    columns: ["x"],
    with: "median",
    indicator: false,
  }).name;
  const names = namesToWrite(FILE, [generated, "even", generated, "nothing"]);
  expect(names).toEqual([[["strands", 0, "steps", 0, "name"], generated]]);
  const changed = names.reduce((text, [path, name]) => unwrap(changePart(text, path, name)), FILE);
  expect(changed).toContain("# keep this remark");
  expect(namesToWrite(changed, [generated])).toEqual([]);
  const steps = unwrap(parsePipeline(changed)).file.strands[0]!.steps as readonly {
    readonly name?: string;
  }[];
  expect(steps.map(({ name }) => name)).toEqual([generated, "even"]);
});
