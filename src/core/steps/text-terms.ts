import { hidden } from "../names/hidden";
import { formatNumber } from "../format/numbers";
import { z } from "zod";
import { binary, call, column, isNotNull, text, type Expression } from "../expression/ast";
import { filter, outputColumns, withColumns } from "../relation/relation";
import { problem, ProblemError } from "../problem";
import { checkNewName, ofFamily } from "./shared";
import { defineStep, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("text_terms"),
  ...stepCommon,
  column: z
    .string()
    .min(1)
    .describe("The text column. It is dropped unless kept. The feature of a missing text is missing."),
  into: z.string().min(1).optional().describe("Name of the feature. NAME_terms if omitted."),
  longest: z
    .int()
    .min(1)
    .max(3)
    .default(1)
    .describe("Maximum n-gram length: 1 for single words, 2 for pairs as well."),
  weight: z
    .enum(["count", "presence", "tf_idf"])
    .default("tf_idf")
    .describe(
      "count: how often a term occurs. presence: 1 if it does. tf_idf: count * (ln((1 + texts) / (1 + texts with the term)) + 1).",
    ),
  size: z
    .int()
    .min(1)
    .max(20_000)
    .default(1000)
    .describe("Maximum number of terms: those in the most training texts."),
  least_texts: z.int().min(1).default(2).describe("Minimum number of training texts with a term."),
  most_share: z.number().gt(0).max(1).default(1).describe("Maximum share of training texts with a term."),
  stop_words: z.array(z.string().min(1)).default([]).describe("Words to ignore, in lower case."),
  keep: z.boolean().default(false).describe("true: the text column is kept."),
});
type Settings = z.infer<typeof settings>;

const learnedSchema = z.object({
  texts: z.number(),
  terms: z.array(z.object({ term: z.string(), texts: z.number() })),
});
type Learned = z.infer<typeof learnedSchema>;

const TERM = "term";
const TEXT_NUMBER = hidden("text");
const feature = (current: Settings): string => current.into ?? `${current.column}_terms`;

/** Terms with a stop word in them: the word alone, or within a run. */
function withoutStopWords(current: Settings): readonly Expression[] {
  const padded = binary(binary(text(" "), "||", column(TERM)), "||", text(" "));
  return current.stop_words.map((word) =>
    binary(call("strpos", padded, text(` ${word.toLowerCase()} `)), "=", {
      kind: "literal",
      type: "number",
      text: "0",
    }),
  );
}

/** Smoothed inverse document frequency. Manning, Raghavan, Schütze: Introduction to Information Retrieval (2008), section 6.2; smoothing as if one more text held every term. */
const inverseFrequency = (texts: number, withTerm: number): number =>
  Math.log((1 + texts) / (1 + withTerm)) + 1;

/** Terms of a text as one sparse feature; see TermWeights in expression/ast. */
export const textTermsStep: StepKind = defineStep({
  kind: "text_terms",
  title: "Text terms",
  help: {
    about:
      "Turns a text into one sparse feature: the weights of words and n-grams from training texts. The algorithm gets one number column per term.",
    words: ["tf-idf", "bag of words", "tokens", "words", "vector", "terms of a text"],
    missing: "A missing text has a missing feature; fill the text first.",
    example: "column: body\nweight: tf_idf\nsize: 400\nlongest: 2",
  },
  settings,
  sentence: (current) =>
    `${current.weight.replace("_", "-")} of ${formatNumber(current.size)} terms of ${current.column}`,
  check: (current, context) => {
    const found = ofFamily(context, [current.column], ["column"], "text", "split");
    checkNewName(context, feature(current), ["into"], current.keep ? [] : [current.column]);
    const written = context.written(
      feature(current),
      { type: "sparse", nullable: found[0]?.nullable ?? true },
      found,
    );
    const output = new Map([...context.input].filter(([name]) => current.keep || name !== current.column));
    output.set(written.name, written);
    return {
      output,
      reads: [current.column],
      writes: [written.name],
      drops: current.keep || output.has(current.column) ? [] : [current.column],
    };
  },
  learn: {
    schema: learnedSchema,
    questions: (current) => {
      const inTexts = {
        name: "texts",
        expression: { ...call("count", column(TEXT_NUMBER)), distinct: true },
      };
      return [
        { measures: [{ name: "texts", expression: call("count", column(current.column)) }] },
        {
          rows: (training) => {
            const numbered = withColumns(filter(training, isNotNull(column(current.column))), [
              {
                name: TEXT_NUMBER,
                expression: { kind: "window", call: call("row_number"), by: [], order: [] },
              },
            ]);
            const words = {
              kind: "words" as const,
              input: numbered,
              keep: [TEXT_NUMBER],
              text: column(current.column),
              longest: current.longest,
              wordColumn: TERM,
            };
            return withoutStopWords(current).reduce<typeof words | ReturnType<typeof filter>>(
              (rows, condition) => filter(rows, condition),
              words,
            );
          },
          by: [{ name: "found", expression: column(TERM) }],
          measures: [inTexts],
          limit: {
            order: [{ expression: column("texts"), descending: true }, { expression: column("found") }],
            rows: current.size * 2 + 1000,
          },
        },
      ];
    },
    decode: (current, [[all = {}] = [], found = []]): Learned => {
      const texts = Number(all["texts"] ?? 0);
      const terms = found
        .map((row) => ({ term: String(row["found"]), texts: Number(row["texts"]) }))
        .filter((term) => term.texts >= current.least_texts && term.texts <= current.most_share * texts)
        // By code point among equals, whatever the collation of the database.
        .sort((left, right) => right.texts - left.texts || (left.term < right.term ? -1 : 1))
        .slice(0, current.size);
      if (terms.length === 0)
        throw new ProblemError(
          problem(
            "no_terms",
            `No term of "${current.column}" is in at least ${current.least_texts} training texts.`,
            "Lower least_texts, or leave the column out.",
            { step: current.name ?? "text_terms" },
          ),
        );
      return { texts, terms };
    },
  },
  apply: (current, input, learned) => {
    const all = outputColumns(input);
    const vocabulary = (learned?.terms ?? []).map(({ term, texts }) => ({
      term,
      weight: current.weight === "tf_idf" ? inverseFrequency(learned?.texts ?? 0, texts) : 1,
    }));
    const terms: Expression = {
      kind: "terms",
      operand: column(current.column),
      weights: {
        vocabulary,
        longest: current.longest,
        measure: current.weight === "presence" ? "presence" : "count",
      },
    };
    const kept = all
      .filter((name) => current.keep || name !== current.column)
      .map((name) => ({ name, expression: column(name) }));
    return {
      kind: "project",
      input,
      items: [
        ...kept.filter((term) => term.name !== feature(current)),
        ...(all.includes(current.column) ? [{ name: feature(current), expression: terms }] : []),
      ],
    };
  },
});
