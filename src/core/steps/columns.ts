import { z } from "zod";
import { column } from "../expression/ast";
import { problem } from "../problem";
import { keepColumns, outputColumns, project } from "../relation/relation";
import { isUsableIdentifier } from "../sql/quote";
import { belongsTo, defineStep, HIDDEN_COLUMNS, listNames, stepCommon, type CheckContext, type ColumnState, type StepKind } from "./step";

const names = z.array(z.string().min(1)).min(1);

/** The states of named columns; unknown and repeated names are reported. */
function named(context: CheckContext, wanted: readonly string[]): readonly ColumnState[] {
  const seen = new Set<string>();
  return wanted.flatMap((name, index) => {
    if (seen.has(name)) {
      context.report(problem("duplicate_column", `The column "${name}" is named twice.`, "Remove one of the two."), ["columns", index]);
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
  settings: z.strictObject({ do: z.literal("keep"), ...stepCommon, columns: names.describe("The columns that go on; all others end here.") }),
  sentence: (settings) => `keep ${listNames(settings.columns)}`,
  check: (settings, context) => {
    const kept = named(context, settings.columns);
    const output = new Map(kept.map((each) => [each.name, each]));
    return { output, reads: [], writes: [], drops: [...context.input.keys()].filter((name) => !output.has(name)) };
  },
  apply: (settings, input, _learned, context) => keepColumns(input, outputColumns(input).filter((name) => HIDDEN_COLUMNS.includes(name) || belongsTo(name, settings.columns, context.input))),
});

export const dropStep: StepKind = defineStep({
  kind: "drop",
  title: "Drop columns",
  settings: z.strictObject({ do: z.literal("drop"), ...stepCommon, columns: names.describe("The columns that end here.") }),
  sentence: (settings) => `drop ${listNames(settings.columns)}`,
  check: (settings, context) => {
    const dropped = new Set(named(context, settings.columns).map((each) => each.name));
    return { output: new Map([...context.input].filter(([name]) => !dropped.has(name))), reads: [], writes: [], drops: [...dropped] };
  },
  apply: (settings, input, _learned, context) => keepColumns(input, outputColumns(input).filter((name) => !belongsTo(name, settings.columns, context.input))),
});

export const renameStep: StepKind = defineStep({
  kind: "rename",
  title: "Rename columns",
  settings: z.strictObject({ do: z.literal("rename"), ...stepCommon, columns: z.record(z.string(), z.string().min(1)).describe("Old name: new name.") }),
  sentence: (settings) => `rename ${listNames(Object.entries(settings.columns).map(([from, to]) => `${from} to ${to}`))}`,
  check: (settings, context) => {
    const renamed = new Map<string, string>();
    for (const [from, to] of Object.entries(settings.columns)) {
      const found = context.column(from, ["columns", from]);
      if (found?.bundle) context.report(problem("bundle_renamed", `"${from}" stands for several indicator columns and cannot be renamed.`, "Rename it before the encode step."), ["columns", from]);
      if (!isUsableIdentifier(to)) context.report(problem("bad_name", `"${to.slice(0, 40)}" cannot be a column name in PostgreSQL: at most 63 bytes.`, "Choose a shorter name."), ["columns", from]);
      if (found) renamed.set(from, to);
    }
    const output = new Map<string, ColumnState>();
    for (const [name, state] of context.input) {
      const target = renamed.get(name) ?? name;
      if (output.has(target)) {
        const at = [...renamed].find(([, to]) => to === target)?.[0] ?? target;
        context.report(problem("duplicate_column", `There would be two columns named "${target}".`, "Choose another name, or drop one of them first."), ["columns", at]);
      }
      output.set(target, { ...state, name: target });
    }
    return { output, reads: [...renamed.keys()], writes: [...renamed.values()], drops: [...renamed.keys()].filter((name) => !output.has(name)) };
  },
  apply: (settings, input) => project(input, outputColumns(input).map((name) => ({ name: settings.columns[name] ?? name, expression: column(name) }))),
});
