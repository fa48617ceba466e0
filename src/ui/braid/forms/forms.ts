import type { Choice, Field, Form, Part } from "./field";

const MOMENTS = ["time"] as const;
const NUMBERS = ["number"] as const;
const TEXTS = ["text"] as const;
const plain = (...names: readonly string[]): readonly Choice[] =>
  names.map((name) => [name, name.replaceAll("_", " ")] as const);
const columns: Field = { name: "columns", as: "columns" };
const numbers: Field = { name: "columns", as: "columns", families: NUMBERS };
const texts: Field = { name: "columns", as: "columns", families: ["text", "yes/no"] };
const keep: Field = { name: "keep", as: "yes", label: "keep the original column" };
const value = (text: string, label: string): Part => ({ label, is: { value: text } });
const bound = (name: string, quantile: number): Field => ({
  name,
  as: "variant",
  absent: "no limit",
  parts: [
    { label: "a number", is: { input: { as: "number" }, initial: 0 } },
    { label: "a learned quantile", is: { key: "quantile", input: { as: "number" }, initial: quantile } },
  ],
});
const joined: Form = [
  { name: "with", as: "strand", label: "strand to join" },
  { name: "on", as: "join columns", label: "matching columns" },
];
const taken: Form = [
  { name: "take", as: "columns", there: "with", label: "columns to add" },
  { name: "prefix", as: "text" },
];

/** How the settings of every kind of step are asked for. A test holds them against the step modules. */
export const FORMS: Readonly<Record<string, Form>> = {
  filter: [{ name: "where", as: "expression" }],
  deduplicate: [
    { name: "by", as: "columns" },
    { name: "order", as: "order" },
    { name: "keep", as: "choice", choices: plain("first", "last") },
  ],
  sample: [
    { name: "by", as: "columns" },
    { name: "share", as: "number" },
    { name: "seed", as: "constant" },
  ],
  limit: [
    { name: "order", as: "order" },
    { name: "rows", as: "number", whole: true },
  ],
  stack: [
    { name: "with", as: "strands" },
    {
      name: "others",
      as: "choice",
      choices: [
        ["stop", "an error"],
        ["missing", "kept, missing where absent"],
        ["drop", "excluded"],
      ],
    },
    { name: "origin", as: "text" },
  ],
  keep: [columns],
  drop: [columns],
  rename: [
    { name: "columns", as: "by column", value: { as: "text" }, initial: "" },
    {
      name: "pattern",
      as: "variant",
      absent: "none",
      parts: [
        {
          label: "by pattern",
          is: {
            fields: [
              { name: "find", as: "text" },
              { name: "replace", as: "text" },
            ],
            initial: { find: "^", replace: "" },
          },
        },
      ],
    },
  ],
  convert: [
    {
      name: "columns",
      as: "by column",
      value: {
        as: "choice",
        choices: plain(
          "text",
          "integer",
          "bigint",
          "numeric",
          "double precision",
          "boolean",
          "date",
          "timestamp",
          "timestamptz",
        ),
      },
      initial: "text",
    },
    {
      name: "failing",
      as: "choice",
      choices: [
        ["stop", "stop the run"],
        ["missing", "set to missing"],
      ],
    },
    { name: "flag", as: "yes" },
  ],
  derive: [{ name: "columns", as: "expressions", label: "new columns" }],
  map: [
    { name: "column", as: "column" },
    { name: "values", as: "map of", column: "column" },
    {
      name: "rest",
      as: "variant",
      parts: [
        value("keep", "stay"),
        value("missing", "set to missing"),
        { label: "set to a constant", is: { key: "constant", input: { as: "constant" }, initial: "other" } },
      ],
    },
    { name: "missing", as: "constant" },
    { name: "into", as: "text" },
  ],
  clip: [numbers, bound("low", 0.01), bound("high", 0.99)],
  date_parts: [
    { name: "column", as: "column", families: MOMENTS },
    {
      name: "parts",
      as: "choices",
      choices: plain(
        "year",
        "quarter",
        "month",
        "week",
        "day_of_month",
        "day_of_year",
        "weekday",
        "hour",
        "minute",
        "date",
        "is_weekend",
      ),
    },
    { name: "zone", as: "text" },
  ],
  elapsed: [
    { name: "from", as: "column", families: MOMENTS },
    { name: "to", as: "column", families: MOMENTS },
    { name: "unit", as: "choice", choices: plain("seconds", "minutes", "hours", "days", "weeks") },
    { name: "into", as: "text" },
  ],
  extract: [
    { name: "column", as: "column", families: TEXTS },
    { name: "pattern", as: "text" },
    { name: "into", as: "words" },
  ],
  split: [
    { name: "column", as: "column", families: TEXTS },
    { name: "at", as: "text" },
    { name: "into", as: "words" },
  ],
  fill: [
    columns,
    {
      name: "with",
      as: "variant",
      parts: [
        value("median", "median"),
        value("mean", "mean"),
        value("most_frequent", "most frequent value"),
        { label: "a constant", is: { key: "constant", input: { as: "constant" }, initial: 0 } },
        {
          label: "previous value in time",
          is: {
            key: "forward",
            fields: [
              { name: "order", as: "column", families: MOMENTS },
              { name: "by", as: "columns" },
            ],
            initial: { order: "" },
          },
        },
      ],
    },
    { name: "by", as: "columns" },
    { name: "indicator", as: "yes" },
  ],
  scale: [numbers, { name: "method", as: "choice", choices: plain("standard", "min_max", "robust") }],
  bin: [
    numbers,
    {
      name: "at",
      as: "variant",
      parts: [
        { label: "given edges", is: { key: "edges", input: { as: "numbers" }, initial: [0] } },
        {
          label: "equal-width bins",
          is: { key: "equal_width", input: { as: "number", whole: true }, initial: 10 },
        },
        {
          label: "quantile bins",
          is: { key: "quantiles", input: { as: "number", whole: true }, initial: 10 },
        },
      ],
    },
    keep,
  ],
  transform: [
    numbers,
    { name: "method", as: "choice", choices: plain("log", "log1p", "signed_log", "sqrt", "power") },
    { name: "exponent", as: "number" },
    {
      name: "outside",
      as: "choice",
      choices: [
        ["missing", "set to missing"],
        ["stop", "stop the run"],
      ],
    },
  ],
  cycle: [numbers, { name: "period", as: "number" }],
  baseline: [
    numbers,
    { name: "entity", as: "columns" },
    { name: "centre", as: "choice", choices: plain("mean", "median") },
    { name: "spread", as: "choice", choices: plain("deviation", "quartiles", "none") },
    {
      name: "past",
      as: "variant",
      absent: "learned from training rows",
      parts: [
        {
          label: "its own last days",
          is: {
            fields: [
              { name: "order", as: "column", families: MOMENTS },
              { name: "last", as: "text", example: "30 days" },
            ],
            initial: { order: "", last: "30 days" },
          },
        },
        {
          label: "its own last observations",
          is: {
            fields: [
              { name: "order", as: "column", families: MOMENTS },
              { name: "moments", as: "number", whole: true },
            ],
            initial: { order: "", moments: 10 },
          },
        },
      ],
    },
    { name: "least_rows", as: "number", whole: true },
    {
      name: "unseen",
      as: "choice",
      choices: [
        ["overall", "those of all training rows"],
        ["missing", "missing"],
      ],
    },
    keep,
  ],
  encode: [
    texts,
    {
      name: "unseen",
      as: "choice",
      choices: [
        ["zero", "all columns 0"],
        ["other", "a separate column"],
      ],
    },
    {
      name: "reference",
      as: "choice",
      choices: [
        ["first", "the first category"],
        ["none", "none: one column per category"],
      ],
    },
    { name: "most_levels", as: "number", whole: true },
  ],
  ordinal: [
    texts,
    {
      name: "order",
      as: "variant",
      parts: [
        value("alphabet", "alphabet"),
        value("frequency", "by frequency"),
        { label: "a given order", is: { input: { as: "words" }, initial: ["first", "second"] } },
      ],
    },
    {
      name: "unseen",
      as: "variant",
      parts: [
        value("missing", "missing"),
        { label: "a number", is: { input: { as: "number" }, initial: 0 } },
      ],
    },
  ],
  frequency: [texts, { name: "as", as: "choice", choices: plain("share", "count") }, keep],
  target_mean: [
    texts,
    { name: "smoothing", as: "number" },
    { name: "folds", as: "number", whole: true },
    keep,
  ],
  group_rare: [
    { ...columns, as: "columns", families: TEXTS },
    { name: "least_rows", as: "number", whole: true },
    { name: "least_share", as: "number" },
    { name: "most", as: "number", whole: true },
    { name: "label", as: "text" },
  ],
  text_terms: [
    { name: "column", as: "column", families: TEXTS },
    { name: "into", as: "text" },
    { name: "longest", as: "number", whole: true },
    { name: "weight", as: "choice", choices: plain("count", "presence", "tf_idf") },
    { name: "size", as: "number", whole: true },
    { name: "least_texts", as: "number", whole: true },
    { name: "most_share", as: "number" },
    { name: "stop_words", as: "words" },
    keep,
  ],
  aggregate: [
    { name: "by", as: "columns" },
    { name: "measures", as: "expressions", aggregate: true },
  ],
  pivot: [
    { name: "by", as: "columns" },
    { name: "column", as: "column" },
    { name: "values", as: "values of", column: "column" },
    { name: "measures", as: "expressions", aggregate: true },
    { name: "rest", as: "yes" },
  ],
  unpivot: [
    columns,
    { name: "name_into", as: "text" },
    { name: "value_into", as: "text" },
    {
      name: "missing",
      as: "choice",
      choices: [
        ["drop", "skipped"],
        ["keep", "kept"],
      ],
    },
  ],
  lag: [
    columns,
    { name: "order", as: "column", families: MOMENTS },
    { name: "by", as: "columns" },
    { name: "back", as: "numbers" },
    { name: "difference", as: "yes" },
  ],
  rolling: [
    { name: "order", as: "column", families: MOMENTS },
    { name: "last", as: "text", example: "7 days" },
    { name: "moments", as: "number", whole: true },
    { name: "by", as: "columns" },
    { name: "measures", as: "expressions", aggregate: true },
  ],
  join: [
    ...joined,
    {
      name: "match",
      as: "choice",
      choices: [
        ["one", "at most one"],
        ["many", "many; rows multiply"],
      ],
    },
    {
      name: "unmatched",
      as: "choice",
      choices: [
        ["keep", "kept, with missing values"],
        ["drop", "go"],
      ],
    },
    { name: "where", as: "expression", with: "with" },
    ...taken,
  ],
  join_latest: [
    ...joined,
    { name: "moment", as: "column", families: MOMENTS, label: "time of prediction" },
    { name: "known", as: "column", there: "with", families: MOMENTS, label: "known since, there" },
    {
      name: "same_moment",
      as: "choice",
      choices: [
        ["allow", "counts"],
        ["exclude", "too late"],
      ],
    },
    { name: "within", as: "text", example: "7 days" },
    {
      name: "unmatched",
      as: "choice",
      choices: [
        ["keep", "kept, with missing values"],
        ["drop", "go"],
      ],
    },
    ...taken,
  ],
  label_regions: [
    { name: "x", as: "column", families: NUMBERS },
    { name: "y", as: "column", families: NUMBERS },
    { name: "colour", as: "column" },
    { name: "regions", as: "regions" },
    { name: "otherwise", as: "text" },
    { name: "into", as: "text" },
  ],
  sql: [
    { name: "reads", as: "strands" },
    { name: "select", as: "select" },
  ],
  check: [
    { name: "not_missing", as: "columns" },
    { name: "unique", as: "columns" },
    {
      name: "range",
      as: "variant",
      absent: "not checked",
      parts: [
        {
          label: "between",
          is: {
            fields: [
              { name: "column", as: "column" },
              { name: "least", as: "constant" },
              { name: "most", as: "constant" },
            ],
            initial: { column: "" },
          },
        },
      ],
    },
    {
      name: "one_of",
      as: "variant",
      absent: "not checked",
      parts: [
        {
          label: "among",
          is: {
            fields: [
              { name: "column", as: "column" },
              { name: "values", as: "values of", column: "column" },
            ],
            initial: { column: "", values: [] },
          },
        },
      ],
    },
    {
      name: "found_in",
      as: "variant",
      absent: "not checked",
      parts: [
        {
          label: "in another strand",
          is: {
            fields: [
              { name: "column", as: "column" },
              { name: "strand", as: "strand" },
              { name: "there", as: "column", there: "strand" },
            ],
            initial: { column: "", strand: "" },
          },
        },
      ],
    },
    {
      name: "rows",
      as: "variant",
      absent: "not checked",
      parts: [
        {
          label: "between",
          is: {
            fields: [
              { name: "least", as: "number", whole: true },
              { name: "most", as: "number", whole: true },
            ],
            initial: { least: 1 },
          },
        },
      ],
    },
    {
      name: "fresh",
      as: "variant",
      absent: "not checked",
      parts: [
        {
          label: "newest value",
          is: {
            fields: [
              { name: "column", as: "column", families: MOMENTS },
              { name: "within", as: "text", example: "26 hours" },
            ],
            initial: { column: "", within: "26 hours" },
          },
        },
      ],
    },
    {
      name: "otherwise",
      as: "choice",
      choices: [
        ["stop", "stop the run"],
        ["warn", "warn"],
      ],
    },
  ],
};
