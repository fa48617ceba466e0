import { z } from "zod";
import { call, column, integer, text } from "../expression/ast";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { checkNewName, ofFamily } from "./shared";
import {
  changed,
  defineStep,
  listNames,
  stepCommon,
  type CheckContext,
  type StepKind,
  type StepShape,
} from "./step";

const newNames = z.array(z.string().min(1)).min(1);

function parts(name: string, into: readonly string[], context: CheckContext): StepShape {
  const found = ofFamily(context, [name], ["column"], "text", "split");
  const written = into.map((text, index) => {
    checkNewName(context, text, ["into", index]);
    return context.written(text, { type: "text", nullable: true }, found);
  });
  return { output: changed(context.input, written), reads: [name], writes: into, drops: [] };
}

export const extractStep: StepKind = defineStep({
  kind: "extract",
  title: "Extract from text",
  help: {
    about: "Extracts parts of a text with a regular expression.",
    words: ["regex", "regular", "expression", "substring", "pattern", "match"],
    missing: "Missing where the text is missing or does not match.",
    example: 'column: body\npattern: "parcel ([0-9]+)"\ninto: [mentioned_parcel]',
  },
  settings: z.strictObject({
    do: z.literal("extract"),
    ...stepCommon,
    column: z.string().min(1).describe("A text column, which is kept."),
    pattern: z
      .string()
      .min(1)
      .max(500)
      .describe("A PostgreSQL regular expression. Each captured group of the first match becomes a column."),
    into: newNames.describe(
      "New columns, one per captured group. Missing where the text is missing or does not match.",
    ),
  }),
  sentence: (settings) => `${listNames(settings.into)} out of ${settings.column}`,
  patterns: (settings) => [{ setting: "pattern", text: settings.pattern }],
  check: (settings, context) => {
    const groups = capturingGroups(settings.pattern);
    if (groups !== settings.into.length)
      context.report(
        problem(
          "bad_pattern",
          `The pattern has ${groups} groups, but ${settings.into.length} new columns are named.`,
          "Use ( ) around each part to extract and (?: ) for other groups.",
        ),
        ["into"],
      );
    return parts(settings.column, settings.into, context);
  },
  apply: (settings, input) =>
    withColumns(
      input,
      settings.into.map((name, index) => ({
        name,
        expression: call("regexp_group", column(settings.column), text(settings.pattern), integer(index + 1)),
      })),
    ),
});

/**
 * How many capturing brackets a PostgreSQL regular expression has. Whether it is one at all is judged by PostgreSQL:
 * here only what hides a bracket is known, that is backslashes and bracket expressions.
 */
export function capturingGroups(pattern: string): number {
  if (pattern.startsWith("***=")) return 0;
  // In turn: an escaped character, a set with its classes and a leading "]", an opening bracket that captures.
  const found = pattern.matchAll(/\\[\s\S]|\[\^?\]?(?:\[[.:=][\s\S]*?[.:=]\]|[^\]])*\]|(\()(?!\?)/gu);
  return [...found].filter(([, opening]) => opening !== undefined).length;
}

export const splitStep: StepKind = defineStep({
  kind: "split",
  title: "Split text",
  help: {
    about: "Splits a text at a separator.",
    words: ["separator", "delimiter", "tokens", "parts"],
    missing: "Missing where the text is missing or has no such part.",
    example: "column: slot\nat: /\ninto: [site, compartment]",
  },
  settings: z.strictObject({
    do: z.literal("split"),
    ...stepCommon,
    column: z.string().min(1).describe("A text column, which is kept."),
    at: z.string().min(1).max(50).describe("The separator, such as / or a comma."),
    into: newNames.describe(
      "New columns for the first part, the second and so on. Missing where there is no such part.",
    ),
  }),
  sentence: (settings) => `split ${settings.column} at ${JSON.stringify(settings.at)}`,
  check: (settings, context) => parts(settings.column, settings.into, context),
  apply: (settings, input) =>
    withColumns(
      input,
      settings.into.map((name, index) => ({
        name,
        expression: call(
          "nullif",
          call("split_part", column(settings.column), text(settings.at), integer(index + 1)),
          text(""),
        ),
      })),
    ),
});
