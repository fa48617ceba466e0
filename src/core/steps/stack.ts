import { z } from "zod";
import { cast, column, text } from "../expression/ast";
import { unify } from "../expression/functions";
import { problem } from "../problem";
import { outputColumns, project, type Relation } from "../relation/relation";
import { checkNewName, typedNull } from "./shared";
import { defineStep, listNames, stepCommon, type ColumnState, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("stack"),
  ...stepCommon,
  with: z
    .array(z.string().min(1))
    .min(1)
    .describe("The strands whose rows are appended. Columns are matched by name."),
  others: z
    .enum(["missing", "drop", "stop"])
    .default("stop")
    .describe(
      "Columns that not every strand has. missing: kept, and missing where a strand does not have them. drop: excluded. stop: an error.",
    ),
  origin: z.string().min(1).optional().describe("A new text column with the name of the row's strand."),
});
type Settings = z.infer<typeof settings>;

export const stackStep: StepKind = defineStep({
  kind: "stack",
  title: "Stack strands",
  help: {
    about: "Appends the rows of other strands; columns match by name.",
    words: ["union", "append", "concatenate", "rows", "beneath"],
    missing: "A column that a strand does not have is missing in its rows, with others: missing.",
    example: "with: [parcels of last year]\nothers: missing\norigin: source",
  },
  regroups: true,
  settings,
  strands: (current) => current.with,
  sentence: (current) => `put ${listNames(current.with)} beneath`,
  check: (current, context) => {
    const parts = [
      context.input,
      ...current.with.flatMap((name, index) => context.strand(name, ["with", index]) ?? []),
    ];
    const names = new Set(parts.flatMap((part) => [...part.keys()]));
    const output = new Map<string, ColumnState>();
    const lonely: string[] = [];
    for (const name of names) {
      const states = parts.flatMap((part) => part.get(name) ?? []);
      const everywhere = states.length === parts.length;
      if (!everywhere) lonely.push(name);
      if (!everywhere && current.others !== "missing") continue;
      if (states.some((state) => state.bundle))
        context.report(
          problem(
            "bundle_read",
            `"${name}" stands for several learned columns and cannot be stacked.`,
            "Stack the strands before anything is learned.",
          ),
          ["with"],
        );
      const type = unify(states.map((state) => state.type));
      if (!type)
        context.report(
          problem(
            "type_clash",
            `"${name}" is ${[...new Set(states.map((state) => state.type))].join(" here and ")} there; they cannot share a column.`,
            "Convert one of them first.",
          ),
          ["with"],
        );
      output.set(
        name,
        context.written(
          name,
          { type: type ?? "text", nullable: !everywhere || states.some((state) => state.nullable) },
          states,
        ),
      );
    }
    if (lonely.length > 0 && current.others === "stop")
      context.report(
        problem(
          "columns_differ",
          `Not every strand has ${listNames(lonely)}.`,
          "Set others: missing to keep them, or others: drop to drop them; or rename columns that should match.",
        ),
        ["with"],
      );
    if (current.origin !== undefined) {
      checkNewName(context, current.origin, ["origin"]);
      output.set(current.origin, context.written(current.origin, { type: "text", nullable: false }, []));
    }
    const drops = [...context.input.keys()].filter((name) => !output.has(name));
    return { output, reads: [], writes: [...output.keys()], drops };
  },
  apply: (current, input, _learned, context) => {
    const parts = [
      { name: context.inside, rows: input },
      ...current.with.map((name) => ({ name, rows: context.strand(name) })),
    ];
    const columns = stackedColumns(
      current,
      parts.map((part) => outputColumns(part.rows)),
    );
    // One column may be integer in one strand and double in another; PostgreSQL unifies them as the check did.
    const inputs = parts.map((part) =>
      project(part.rows, [
        ...columns.map((name) => ({
          name,
          expression: outputColumns(part.rows).includes(name)
            ? column(name)
            : typedNull(context.output.get(name)?.type ?? "text"),
        })),
        ...(current.origin === undefined
          ? []
          : [{ name: current.origin, expression: cast(text(part.name), "text") }]),
      ]),
    );
    return { kind: "union", inputs } satisfies Relation;
  },
});

function stackedColumns(current: Settings, parts: readonly (readonly string[])[]): readonly string[] {
  const names = [...new Set(parts.flat())];
  return current.others === "missing"
    ? names
    : names.filter((name) => parts.every((part) => part.includes(name)));
}
