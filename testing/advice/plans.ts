import { DIVISION_ADVICE } from "./divisions";
import { fileOf, type AdviceCase, type Pieces } from "./file";

const BINARY: Pieces = {
  target: "{column: size_class, kind: binary, positive: S}",
  candidate: "{name: plain, algorithm: logistic_regression}",
};
const CLASSES: Pieces = {
  target: "{column: size_class, kind: classes}",
  candidate: "{name: plain, algorithm: logistic_regression}",
};
const candidate = (code: string, wrong: string, right: string, others: Pieces = {}): AdviceCase => [
  code,
  { ...others, candidate: `{name: plain, ${wrong}}` },
  { ...others, candidate: `{name: plain, ${right}}` },
];
const searched = (code: string, wrong: string, right: string): AdviceCase =>
  candidate(
    code,
    `algorithm: linear_regression, search: ${wrong}`,
    `algorithm: linear_regression, search: ${right}`,
  );
/** Advice about the file as a whole. */
export const FILE_ADVICE: readonly AdviceCase[] = [
  ["file_too_large", { more: `# ${"long ".repeat(250_000)}` }, {}],
  ["not_a_pipeline", "- a list", fileOf()],
  ["missing_format", fileOf().replace("ravlen: 1\n", ""), fileOf()],
  ["unknown_format", fileOf().replace("ravlen: 1", "ravlen: 9"), fileOf()],
  ["yaml_syntax", fileOf().replace("steps: []", "steps: [{do: filter"), fileOf()],
  ["yaml_syntax", fileOf().replace("name: advice", "name: &a advice\nnote: *b"), fileOf()],
  ["unknown_setting", { more: "holdot: {share: 0.3}" }, {}],
  [
    "unknown_setting",
    { candidate: "{name: c, algorithm: boosted_trees, settings: {missing: mean}}" },
    { candidate: "{name: c, algorithm: boosted_trees, settings: {trees: 10}}" },
  ],
  [
    "unknown_setting",
    { candidate: "{name: c, algorithm: linear_regression, settings: {rigde: 1}}" },
    { candidate: "{name: c, algorithm: linear_regression, settings: {ridge: 1}}" },
  ],
  [
    "unknown_step",
    { steps: "{do: scalee, columns: [weight_g]}" },
    { steps: "{do: scale, columns: [weight_g]}" },
  ],
  ["missing_setting", fileOf().replace(/rows: .*/, ""), fileOf()],
  [
    "bad_setting",
    { steps: "{do: scale, columns: [weight_g], method: wild}" },
    { steps: "{do: scale, columns: [weight_g], method: robust}" },
  ],
  ["bad_setting", { steps: "{do: scale, columns: weight_g}" }, { steps: "{do: scale, columns: [weight_g]}" }],
  ["bad_setting", { holdout: "{share: 3}" }, { holdout: "{share: 0.3}" }],
  [
    "duplicate_name",
    { strands: "- {name: sites, from: larkmere.sites}" },
    { strands: "- {name: places, from: larkmere.sites}" },
  ],
  [
    "strand_cycle",
    { strands: "- {name: a, from: {strand: b}}\n  - {name: b, from: {strand: a}}" },
    { strands: "- {name: a, from: {strand: b}}\n  - {name: b, from: larkmere.sites}" },
  ],
  [
    "learns_outside_main",
    {
      strands: "- {name: a, from: larkmere.sites, steps: [{do: scale, columns: [compartments]}]}",
      steps: "{do: join, with: a, on: [site_id], take: [compartments]}",
    },
    {
      strands: "- {name: a, from: larkmere.sites}",
      steps: "{do: join, with: a, on: [site_id], take: [compartments]}, {do: scale, columns: [compartments]}",
    },
  ],
  [
    "reserved_name",
    { steps: "{do: derive, columns: {ravlen_a: weight_g}}" },
    { steps: "{do: derive, columns: {a: weight_g}}" },
  ],
  [
    "unknown_strand",
    { strands: "- {name: a, from: {strand: sitse}}" },
    { strands: "- {name: a, from: {strand: sites}}" },
  ],
  ["unknown_strand", { rows: "{from: parcel, train: 'true', score: 'true'}" }, {}],
  ["unknown_table", { from: "larkmere.parcel" }, {}],
  ["unknown_table", { from: "parcels" }, { from: "larkmere.parcels" }],
  [
    "unknown_column",
    { steps: "{do: drop, columns: [weigt_g]}" },
    { steps: "{do: drop, columns: [weight_g]}" },
  ],
  [
    "learned_too_early",
    {
      steps:
        "{do: scale, columns: [weight_g]}, {do: aggregate, by: [parcel_id, reminders_sent], measures: {w: avg(weight_g)}}",
    },
    {
      steps:
        "{do: aggregate, by: [parcel_id, reminders_sent], measures: {w: avg(weight_g)}}, {do: scale, columns: [w]}",
    },
  ],
  [
    "learned_too_early",
    {
      steps: "{do: scale, columns: [weight_g]}, {do: derive, columns: {known: collected_at is not null}}",
      rows: "{from: parcels, train: known, score: not known}",
      roles: ", exclude: [{column: known, because: it says which rows train}]",
    },
    {
      steps: "{do: derive, columns: {known: collected_at is not null}}, {do: scale, columns: [weight_g]}",
      rows: "{from: parcels, train: known, score: not known}",
      roles: ", exclude: [{column: known, because: it says which rows train}]",
    },
  ],
  [
    "not_a_condition",
    { rows: "{from: parcels, train: weight_g, score: 'true'}" },
    { rows: "{from: parcels, train: weight_g > 3, score: 'true'}" },
  ],
];

const WAITED: Pieces = {
  steps: `{do: derive, columns: {collected: "collected_at is not null", waited: "extract(hour FROM collected_at)"}}, {do: keep, columns: [parcel_id, collected, waited, weight_g]}`,
  target: "{column: collected, kind: binary}",
  candidate: "{name: plain, algorithm: logistic_regression}",
};

/** Advice about roles, parts and candidates. */
export const LEARNING_ADVICE: readonly AdviceCase[] = [
  ["unknown_column", { roles: ", time: booked" }, { roles: ", time: booked_at" }],
  ["role_clash", { roles: ", weight: reminders_sent" }, { roles: ", weight: weight_g" }],
  [
    "type_clash",
    { roles: ", weight: carrier" },
    { steps: `{do: derive, columns: {heft: "CAST(carrier AS numeric)"}}`, roles: ", weight: heft" },
  ],
  [
    "not_a_feature",
    {},
    {
      roles:
        ", exclude: [{column: booked_at, because: a moment}, {column: delivered_at, because: a moment}, {column: deadline_at, because: a moment}, {column: collected_at, because: a moment}]",
    },
  ],
  [
    "not_a_feature",
    { steps: "{do: keep, columns: [parcel_id, reminders_sent, weight_g, booked_at]}" },
    {
      steps: `{do: derive, columns: {booked_at: "extract(hour FROM booked_at)"}}, {do: keep, columns: [parcel_id, reminders_sent, weight_g, booked_at]}`,
    },
  ],
  [
    "known_later",
    { steps: `{do: derive, columns: {heavy: "weight_g > 500"}}`, roles: ", known: {weight_g: after}" },
    {
      steps: `{do: derive, columns: {heavy: "weight_g > 500"}}`,
      roles: ", known: {weight_g: after}, exclude: [{column: heavy, because: known only afterwards}]",
    },
  ],
  ...[", exclude: [{column: waited, because: it is the answer}]", ", known: {waited: before}"].map(
    (roles): AdviceCase => ["from_target_source", WAITED, { ...WAITED, roles }],
  ),
  [
    "no_features",
    { steps: "{do: keep, columns: [parcel_id, reminders_sent]}" },
    { steps: "{do: keep, columns: [parcel_id, reminders_sent, weight_g]}" },
  ],
  [
    "type_clash",
    { target: "{column: carrier, kind: number}" },
    { steps: "{do: convert, columns: {carrier: integer}}", target: "{column: carrier, kind: number}" },
  ],
  [
    "type_clash",
    { target: "{column: carrier, kind: number}" },
    { ...CLASSES, target: "{column: carrier, kind: classes}" },
  ],
  ["target_positive", { ...BINARY, target: "{column: size_class, kind: binary}" }, BINARY],
  [
    "no_sides",
    { ...CLASSES, target: "{column: carrier, kind: classes, negative: barge}" },
    { ...CLASSES, target: "{column: carrier, kind: classes}" },
  ],
  [
    "both_sides",
    { ...BINARY, target: "{column: site_id, kind: binary, positive: [1, 2], negative: [2, 3]}" },
    { ...BINARY, target: "{column: site_id, kind: binary, positive: [1, 2], negative: [3]}" },
  ],
  [
    "type_clash",
    { ...BINARY, target: "{column: site_id, kind: binary, positive: 1, negative: [2, few]}" },
    { ...BINARY, target: "{column: site_id, kind: binary, positive: 1, negative: [2]}" },
  ],
  [
    "type_clash",
    { ...BINARY, target: "{column: site_id, kind: binary, positive: many}" },
    { ...BINARY, target: "{column: site_id, kind: binary, positive: 3}" },
  ],
  ...DIVISION_ADVICE,
  candidate("algorithm_target", "algorithm: logistic_regression", "algorithm: linear_regression"),
  candidate(
    "algorithm_engine",
    "algorithm: nearest_neighbours, engine: warehouse",
    "algorithm: nearest_neighbours, engine: streaming",
  ),
  candidate(
    "no_time",
    "algorithm: base_rate, settings: {predict: last}",
    "algorithm: base_rate, settings: {predict: mean}",
  ),
  candidate(
    "unknown_metric",
    "algorithm: linear_regression, search: {try: [{setting: ridge, values: [1]}], metric: auc}",
    "algorithm: linear_regression, search: {try: [{setting: ridge, values: [1]}], metric: rmse}",
  ),
  searched(
    "grid_cut",
    "{how: grid, trials: 2, try: [{setting: ridge, values: [1, 2, 3]}]}",
    "{how: grid, trials: 3, try: [{setting: ridge, values: [1, 2, 3]}]}",
  ),
  searched(
    "grid_cut",
    "{how: grid, trials: 2, try: [{setting: ridge, values: [1, 2, 3]}]}",
    "{how: random, trials: 2, try: [{setting: ridge, values: [1, 2, 3]}]}",
  ),
  searched(
    "search_range",
    "{how: random, try: [{setting: ridge}]}",
    "{how: random, try: [{setting: ridge, values: [1]}]}",
  ),
  searched(
    "search_range",
    "{how: random, try: [{setting: ridge, from: 3, to: 1}]}",
    "{how: random, try: [{setting: ridge, from: 1, to: 3}]}",
  ),
  searched(
    "search_range",
    "{how: grid, try: [{setting: ridge, from: 1, to: 3}]}",
    "{how: random, try: [{setting: ridge, from: 1, to: 3}]}",
  ),
  searched(
    "search_range",
    "{how: random, try: [{setting: ridge, from: 0, to: 3, scale: log}]}",
    "{how: random, try: [{setting: ridge, from: 0.1, to: 3, scale: log}]}",
  ),
  searched(
    "search_setting",
    "{how: grid, try: [{setting: rigde, values: [1]}]}",
    "{how: grid, try: [{setting: ridge, values: [1]}]}",
  ),
  searched(
    "search_value",
    "{how: grid, try: [{setting: ridge, values: [1, -1]}]}",
    "{how: grid, try: [{setting: ridge, values: [1, 0]}]}",
  ),
  searched(
    "search_value",
    "{how: random, try: [{setting: ridge, from: -1, to: 1}]}",
    "{how: random, try: [{setting: ridge, from: 0, to: 1}]}",
  ),
  [
    "search_setting",
    {
      steps: "{do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: bounds, setting: hgih, values: [1]}]}}",
    },
    {
      steps: "{do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: bounds, setting: high, values: [1]}]}}",
    },
  ],
  [
    "search_setting",
    {
      steps:
        "{do: drop, name: less, columns: [carrier]}, {do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: less, setting: columns, values: [carrier]}]}}",
    },
    {
      steps:
        "{do: drop, name: less, columns: [carrier]}, {do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: bounds, setting: low, values: [1]}]}}",
    },
  ],
  [
    "search_value",
    {
      steps: "{do: fill, name: gaps, columns: [weight_g], with: median}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: gaps, setting: with, values: [medain]}]}}",
    },
    {
      steps: "{do: fill, name: gaps, columns: [weight_g], with: median}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: gaps, setting: with, values: [mean, median]}]}}",
    },
  ],
  [
    "search_step",
    {
      steps: "{do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: bonds, setting: low, values: [1]}]}}",
    },
    {
      steps: "{do: clip, name: bounds, columns: [weight_g], low: 1}",
      candidate:
        "{name: c, algorithm: linear_regression, search: {how: grid, try: [{step: bounds, setting: low, values: [1]}]}}",
    },
  ],
];
