import { z } from "zod";
import { column } from "../expression/ast";
import { problem } from "../problem";
import { keepColumns, outputColumns, project } from "../relation/relation";
import { isHidden } from "../names/hidden";
import { isUsableIdentifier } from "../names/identifier";
import {
  belongsTo,
  defineStep,
  listNames,
  stepCommon,
  type CheckContext,
  type ColumnState,
  type StepKind,
} from "./step";

const names = z.array(z.string().min(1)).min(1);

/** The states of named columns; unknown and repeated names are reported. */
function named(context: CheckContext, wanted: readonly string[]): readonly ColumnState[] {
  const seen = new Set<string>();
  return wanted.flatMap((name, index) => {
    if (seen.has(name)) {
      context.report(
        problem("duplicate_column", `The column "${name}" is named twice.`, "Remove one of the two."),
        ["columns", index],
      );
      return [];
    }
    seen.add(name);
    const found = context.column(name, ["columns", index]);
    return found ? [found] : [];
  });
}

export const keepStep: StepKind = defineStep({
  kind: "keep",
  title: "Keep columns",
  help: {
    about: "Keeps only the named columns.",
    words: ["select columns", "projection", "subset"],
    missing: "Values are unchanged.",
    example: "columns: [parcel_id, site_id, weight_g]",
  },
  settings: z.strictObject({
    do: z.literal("keep"),
    ...stepCommon,
    columns: names.describe("The columns to keep; all others are dropped."),
  }),
  sentence: (settings) => `keep ${listNames(settings.columns)}`,
  check: (settings, context) => {
    const kept = named(context, settings.columns);
    const output = new Map(kept.map((column) => [column.name, column]));
    return {
      output,
      reads: [],
      writes: [],
      drops: [...context.input.keys()].filter((name) => !output.has(name)),
    };
  },
  apply: (settings, input, _learned, context) =>
    keepColumns(
      input,
      outputColumns(input).filter(
        (name) => isHidden(name) || belongsTo(name, settings.columns, context.input),
      ),
    ),
});

export const dropStep: StepKind = defineStep({
  kind: "drop",
  title: "Drop columns",
  help: {
    about: "Drops the named columns.",
    words: ["remove", "delete", "columns"],
    missing: "Values are unchanged.",
    example: "columns: [carrier, booked_at]",
  },
  settings: z.strictObject({
    do: z.literal("drop"),
    ...stepCommon,
    columns: names.describe("The columns to drop."),
  }),
  sentence: (settings) => `drop ${listNames(settings.columns)}`,
  check: (settings, context) => {
    const dropped = new Set(named(context, settings.columns).map((column) => column.name));
    return {
      output: new Map([...context.input].filter(([name]) => !dropped.has(name))),
      reads: [],
      writes: [],
      drops: [...dropped],
    };
  },
  apply: (settings, input, _learned, context) =>
    keepColumns(
      input,
      outputColumns(input).filter((name) => !belongsTo(name, settings.columns, context.input)),
    ),
});

const renameSettings = z.strictObject({
  do: z.literal("rename"),
  ...stepCommon,
  columns: z.record(z.string(), z.string().min(1)).default({}).describe("Old name: new name."),
  pattern: z
    .strictObject({
      find: z.string().min(1).max(200).describe("A regular expression, searched in every column name."),
      replace: z.string().describe("The replacement; $1 is the first captured group."),
    })
    .optional()
    .describe("Renames all columns whose name matches, in addition to those listed."),
});

/** New names by old names, as listed and by pattern; undefined when the pattern is none. */
function newNames(
  settings: z.infer<typeof renameSettings>,
  names: readonly string[],
): ReadonlyMap<string, string> | undefined {
  const renamed = new Map(Object.entries(settings.columns));
  if (!settings.pattern) return renamed;
  let find: RegExp;
  try {
    find = new RegExp(settings.pattern.find, "gu");
  } catch {
    return undefined;
  }
  for (const name of names) {
    const to = name.replaceAll(find, settings.pattern.replace);
    if (to !== name && !renamed.has(name)) renamed.set(name, to);
  }
  return renamed;
}

export const renameStep: StepKind = defineStep({
  kind: "rename",
  title: "Rename columns",
  help: {
    about: "Renames columns, one by one or by pattern.",
    words: ["alias", "name"],
    missing: "Values are unchanged.",
    example: 'columns: {weight_g: weight}\npattern: {find: "_at$", replace: _time}',
  },
  settings: renameSettings,
  sentence: (settings) =>
    `rename ${listNames([...Object.entries(settings.columns).map(([from, to]) => `${from} to ${to}`), ...(settings.pattern ? [`names with ${settings.pattern.find}`] : [])])}`,
  check: (settings, context) => {
    const wanted = newNames(settings, [...context.input.keys()]);
    if (!wanted)
      context.report(
        problem(
          "bad_pattern",
          "This is not a regular expression.",
          "Check its brackets; escape literal characters with a backslash.",
        ),
        ["pattern", "find"],
      );
    if (wanted?.size === 0)
      context.report(
        problem(
          "missing_setting",
          "Nothing is renamed.",
          "List columns, or give a pattern that matches a name.",
        ),
        ["columns"],
      );
    const renamed = new Map<string, string>();
    for (const [from, to] of wanted ?? []) {
      const path = from in settings.columns ? ["columns", from] : ["pattern"];
      const found = context.column(from, path);
      if (found?.bundle)
        context.report(
          problem(
            "bundle_renamed",
            `"${from}" stands for several one-hot columns and cannot be renamed.`,
            "Rename it before the encode step.",
          ),
          path,
        );
      if (!isUsableIdentifier(to))
        context.report(
          problem(
            "bad_name",
            `"${to.slice(0, 40)}" is not a valid column name: 1 to 63 bytes.`,
            "Choose another name.",
          ),
          path,
        );
      if (found) renamed.set(from, to);
    }
    const output = new Map<string, ColumnState>();
    for (const [name, state] of context.input) {
      const target = renamed.get(name) ?? name;
      if (output.has(target)) {
        const at = [...renamed].find(([, to]) => to === target)?.[0] ?? target;
        context.report(
          problem(
            "duplicate_column",
            `There would be two columns named "${target}".`,
            "Choose another name, or drop one of them first.",
          ),
          at in settings.columns ? ["columns", at] : ["pattern"],
        );
      }
      output.set(target, { ...state, name: target });
    }
    return {
      output,
      reads: [...renamed.keys()],
      writes: [...renamed.values()],
      drops: [...renamed.keys()].filter((name) => !output.has(name)),
      renames: renamed,
    };
  },
  apply: (settings, input, _learned, context) => {
    const renamed = newNames(settings, [...context.input.keys()]);
    return project(
      input,
      outputColumns(input).map((name) => ({ name: renamed?.get(name) ?? name, expression: column(name) })),
    );
  },
});
