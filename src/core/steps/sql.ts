import { z } from "zod";
import { problem } from "../problem";
import { table, type Relation } from "../relation/relation";
import { inferColumns } from "../select/infer";
import { parseSelect, SO_FAR } from "../select/parse-select";
import { defineStep, stepCommon, type ColumnState, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("sql"),
  ...stepCommon,
  reads: z.array(z.string().min(1)).default([]).describe("Other strands that the SELECT reads."),
  select: z
    .string()
    .min(1)
    .describe(
      'One SELECT over the rows so far, named strand. It can group, join the strands under "reads", and use window functions.',
    ),
});

/** Stands for a source while only its columns are known. */
const placeholder = (name: string, columns: Iterable<string>): Relation =>
  table({ schema: "strand", table: name }, [...columns]);

export const sqlStep: StepKind = defineStep({
  kind: "sql",
  title: "SQL step",
  help: {
    about:
      "A SELECT over the rows so far. It is parsed, can only read strands, and its columns and lineage are tracked.",
    words: ["query", "select", "custom", "statement", "own select"],
    missing: "As in SQL. In ORDER BY, missing values come last.",
    example:
      "reads: [sites]\nselect: >-\n  SELECT s.*, row_number() OVER (PARTITION BY s.site_id ORDER BY s.delivered_at) AS place\n  FROM strand s",
  },
  regroups: true,
  settings,
  strands: (current) => current.reads,
  sentence: (current) => current.select.replaceAll(/\s+/g, " ").slice(0, 60),
  check: (current, context) => {
    const sources = new Map([
      [SO_FAR, context.input],
      ...current.reads.flatMap((name, index): [string, ReadonlyMap<string, ColumnState>][] => {
        const found = context.strand(name, ["reads", index]);
        return found ? [[name, found]] : [];
      }),
    ]);
    const bundle = [...context.input.values()].find((column) => column.bundle);
    if (bundle)
      context.report(
        problem(
          "bundle_read",
          `"${bundle.name}" stands for learned columns, which a SELECT cannot read.`,
          "Put this step before anything is learned.",
        ),
        ["select"],
      );
    const parsed = parseSelect(
      current.select,
      (name) => {
        const found = sources.get(name);
        return found && placeholder(name, found.keys());
      },
      current.reads,
    );
    if (!parsed.ok) {
      for (const problem of parsed.problems) context.report(problem, ["select"]);
      return { output: context.input, reads: [], writes: [], drops: [] };
    }
    const output = inferColumns(parsed.value, {
      source: (name) => sources.get(name) ?? new Map(),
      report: (found) => context.report(found, ["select"]),
      written: context.written,
    });
    const read = new Set([...output.values()].flatMap((column) => column.parents));
    const reads = [...context.input.values()]
      .filter((column) => read.has(column.identity))
      .map((column) => column.name);
    const writes = [...output.values()]
      .filter((column) => context.input.get(column.name)?.identity !== column.identity)
      .map((column) => column.name);
    return { output, reads, writes, drops: [...context.input.keys()].filter((name) => !output.has(name)) };
  },
  apply: (current, input, _learned, context) => {
    const parsed = parseSelect(
      current.select,
      (name) => {
        if (name === SO_FAR) return input;
        if (current.reads.includes(name)) return context.strand(name);
        return undefined;
      },
      current.reads,
    );
    if (!parsed.ok) throw new RangeError(`SELECT was not checked: ${current.select.slice(0, 80)}`);
    return parsed.value;
  },
});
