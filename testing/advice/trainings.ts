import type { Trial } from "./trial";
import {
  BINARY,
  LOGISTIC,
  BEYOND,
  FIRM,
  WORD,
  LATER,
  lackingLater,
  SLOW,
  MANY,
  NAIVE,
  TWO_GAPS,
  FINITE,
  SCALED,
  DERIVED,
} from "./trial-parts";

/** The advice, the mistake, and what becomes of it by following the advice, in each of the ways that it names. */
export const TRAINING_ADVICE: readonly (readonly [advice: string, wrong: Trial, ...rights: Trial[]])[] = [
  [
    "Add a fill step for it, exclude it, or set missing: mean in the candidate's settings.",
    { of: "gap, x3" },
    { of: "gap, x3", steps: "{do: fill, columns: [gap], with: median}, " },
    { of: "gap, x3", roles: ", exclude: [{column: gap, because: it has gaps}]" },
    { of: "gap, x3", settings: "{missing: mean}" },
  ],
  [
    "Add a fill step for all of them, or set missing: mean in the candidate's settings.",
    { of: "gap, gap2, x3", steps: `${TWO_GAPS}, ` },
    { of: "gap, gap2, x3", steps: `${TWO_GAPS}, {do: fill, columns: [gap, gap2], with: median}, ` },
    { of: "gap, gap2, x3", steps: `${TWO_GAPS}, `, settings: "{missing: mean}" },
  ],
  [
    "Add a fill step for it, exclude it, or set missing: mean in the candidate's settings.",
    { target: BINARY, train: "answer is not null", learner: "support_vector", of: "gap, x3" },
    {
      target: BINARY,
      train: "answer is not null",
      learner: "support_vector",
      of: "gap, x3",
      settings: "{missing: mean}",
    },
  ],
  [
    "Filter those rows, or derive a finite value.",
    { of: "endless, x3" },
    { of: "endless, x3", steps: FINITE },
    { of: "endless, x3", steps: DERIVED },
  ],
  [
    "Filter those rows, or derive a finite value, before this step.",
    { of: "endless, x3", steps: SCALED },
    { of: "endless, x3", steps: `${FINITE}${SCALED}` },
    { of: "endless, x3", steps: `${DERIVED}${SCALED}` },
  ],
  [
    "Filter those rows, or derive a finite value.",
    { ...NAIVE, of: "endless, x3" },
    { ...NAIVE, of: "endless, x3", steps: FINITE },
  ],
  [
    "Predict mean (the shares of the classes) or most_frequent.",
    { ...LOGISTIC, learner: "base_rate", settings: "{predict: median}" },
    { ...LOGISTIC, learner: "base_rate", settings: "{predict: mean}" },
    { ...LOGISTIC, learner: "base_rate", settings: "{predict: most_frequent}" },
  ],
  [
    "Set smoothing above 0, such as 1.",
    { ...NAIVE, of: "x1, label", settings: "{smoothing: 0, most_levels: 1000}" },
    { ...NAIVE, of: "x1, label", settings: "{smoothing: 1, most_levels: 1000}" },
  ],
  ["Exclude these features, or find out why they do not vary.", { of: "x1, same" }, { of: "x1" }],
  [
    "Exclude one of them, or set a small ridge such as 0.001.",
    { of: "x1, x3, sum_of_others", steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, ` },
    { of: "x1, x3" },
    {
      of: "x1, x3, sum_of_others",
      steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, `,
      settings: "{ridge: 0.001}",
    },
  ],
  [
    "Exclude one of them, or set a small ridge such as 0.001.",
    {
      ...NAIVE,
      learner: "logistic_regression",
      of: "x1, x3, sum_of_others",
      steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, `,
    },
    { ...NAIVE, learner: "logistic_regression", of: "x1, x3" },
    {
      ...NAIVE,
      learner: "logistic_regression",
      of: "x1, x3, sum_of_others",
      steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, `,
      settings: "{ridge: 0.001}",
    },
  ],
  [
    "If this column leaks the target, exclude it; if it is genuine, set a small ridge such as 0.001.",
    { ...BEYOND },
    { ...BEYOND, of: "x3" },
    { ...BEYOND, settings: "{ridge: 0.001}" },
  ],
  [
    "Group rare categories in a step, exclude the column if it leaks the target, or set a small ridge such as 0.001.",
    { ...FIRM, of: "x1, cat" },
    { ...FIRM, of: "x1" },
    { ...FIRM, of: "x1, cat", settings: "{ridge: 0.001}" },
    {
      ...FIRM,
      of: "x1, cat",
      steps: `{do: derive, columns: {cat: "CASE WHEN cat IN ('fir', 'elm') THEN 'other' ELSE cat END"}}, `,
    },
  ],
  [
    "Raise most_passes, or set a small ridge such as 0.001.",
    { ...LOGISTIC, settings: "{most_passes: 1}" },
    { ...LOGISTIC, settings: "{most_passes: 50}" },
  ],
  ["Raise most_passes.", SLOW, { ...SLOW, settings: "{most_passes: 100, ridge: 0.000001}" }],
  [
    "Check rows.train and earlier filters; the Braid shows where rows are dropped.",
    { train: "x1 > 1000" },
    { train: "x1 > -1000" },
  ],
  [
    "Restrict rows.train to rows whose target is known, or fill the target.",
    { target: "{column: gap, kind: number}", of: "x3" },
    { target: "{column: gap, kind: number}", of: "x3", train: "gap is not null" },
    {
      target: "{column: gap, kind: number}",
      of: "x3",
      steps: "{do: fill, columns: [gap], with: {constant: 0}}, ",
    },
  ],
  [
    "Derive a weight that is at least 0 everywhere.",
    { roles: ", weight: heft" },
    { roles: ", weight: heft", steps: `{do: derive, columns: {heft: "greatest(heft, 0)"}}, ` },
  ],
  [
    "Check the weight column.",
    { roles: ", weight: nothing" },
    { roles: ", weight: nothing", steps: `{do: derive, columns: {nothing: "1"}}, ` },
  ],
  [
    "Check the weight column; training needs two classes.",
    {
      ...BEYOND,
      roles: ", weight: one_sided",
      steps: `{do: derive, columns: {one_sided: "CASE WHEN beyond THEN 1 ELSE 0 END"}}, `,
      settings: "{ridge: 1}",
    },
    {
      ...BEYOND,
      roles: ", weight: one_sided",
      steps: `{do: derive, columns: {one_sided: "CASE WHEN beyond THEN 1 ELSE 2 END"}}, `,
      settings: "{ridge: 1}",
    },
  ],
  [
    "Filter those rows, or derive a finite target.",
    { target: "{column: far, kind: number}" },
    { target: "{column: far, kind: number}", steps: `{do: filter, where: "far < 1e300"}, ` },
    { target: "{column: far, kind: number}", steps: `{do: derive, columns: {far: "least(far, 100)"}}, ` },
  ],
  [
    "Check the target column and its positive value; training needs two classes.",
    { ...WORD, target: "{column: word, kind: binary, positive: Yes}" },
    WORD,
  ],
  ["Check the target column.", { target: "{column: same, kind: number}" }, {}],
  [
    "Check the target column.",
    { target: "{column: same, kind: number}", learner: "boosted_trees" },
    { learner: "boosted_trees", settings: "{trees: 20}" },
  ],
  [
    "Raise most_rows; scoring time grows in proportion.",
    { learner: "nearest_neighbours", settings: "{most_rows: 100}" },
    { learner: "nearest_neighbours", settings: "{most_rows: 1000}" },
  ],
  [
    "Raise trees, or the learning rate.",
    { learner: "boosted_trees", settings: "{trees: 3, learning_rate: 0.01, validation_share: 0.2}" },
    { learner: "boosted_trees", settings: "{trees: 1000, learning_rate: 0.3, validation_share: 0.2}" },
  ],
  [
    "Exclude it if it is an identifier or free text; or raise most_levels in the candidate's settings.",
    { of: "x1, many", settings: "{ridge: 1, most_levels: 100}" },
    { of: "x1, many", roles: ", exclude: [{column: many, because: an identifier}]" },
    { of: "x1, many", settings: "{ridge: 1, most_levels: 400}" },
  ],
  [
    "Leave it unencoded (algorithms handle categories), group rare ones, or raise most_levels.",
    { of: "x1, many", settings: "{ridge: 1}", steps: "{do: encode, columns: [many]}, " },
    { of: "x1, many", settings: "{ridge: 1, most_levels: 400}" },
    { of: "x1, many", settings: "{ridge: 1}", steps: "{do: encode, columns: [many], most_levels: 400}, " },
    {
      of: "x1, many",
      settings: "{ridge: 1}",
      steps: "{do: group_rare, columns: [many], most: 20}, {do: encode, columns: [many]}, ",
    },
  ],
  [
    "Lower least_texts, or leave the column out.",
    { of: "x1, label", steps: "{do: text_terms, column: label, into: label, least_texts: 50}, " },
    {
      of: "x1, label",
      settings: "{ridge: 1}",
      steps: "{do: text_terms, column: label, into: label, least_texts: 1}, ",
    },
    { of: "x1" },
  ],
  [
    "Group rare ones in an earlier step, or predict a number.",
    { ...NAIVE, target: "{column: many, kind: classes}", of: "x1" },
    {
      ...NAIVE,
      target: "{column: many, kind: classes}",
      of: "x1",
      steps: `{do: derive, columns: {many: "CASE WHEN id % 3 = 0 THEN 'third' ELSE 'other' END"}}, `,
    },
  ],
  [
    "Check the target column; training needs two classes.",
    { ...NAIVE, target: "{column: word, kind: classes}", of: "x1", train: "word = 'yes'" },
    { ...NAIVE, target: "{column: word, kind: classes}", of: "x1" },
  ],
  [
    "Remove duplicates in an earlier step, or choose a key that identifies one row.",
    { key: "half" },
    { key: "half", steps: "{do: deduplicate, by: [half]}, " },
    { key: "id" },
  ],
  [
    "Inspect those rows, or correct the check.",
    { more: "checks: [{name: small, expect: x1 < 0}]" },
    { more: "checks: [{name: small, expect: x1 < 100}]" },
  ],
  [
    "Widen holdout.share, or check rows.train.",
    { holdout: "{share: 0.00001, seed: 3}" },
    { holdout: "{share: 0.3, seed: 3}" },
  ],
  [
    "Set an earlier holdout.from, or check rows.train.",
    { holdout: "{by: time, from: '2030-01-01'}", roles: ", time: seen" },
    { holdout: "{by: time, from: '2026-05-18'}", roles: ", time: seen" },
  ],
  [
    "List existing groups under holdout.groups, or check rows.train.",
    { holdout: "{by: named, groups: [nowhere]}", roles: ", group: cat" },
    { holdout: "{by: named, groups: [oak]}", roles: ", group: cat" },
  ],
  [
    "Widen the condition holdout.where, or check rows.train.",
    { holdout: "{by: condition, where: x1 > 1000}" },
    { holdout: "{by: condition, where: x1 > 0}" },
  ],
  [
    "Load the holdout table, or check the steps that its rows pass through.",
    { holdout: "{by: table, table: lab.empty}" },
    { holdout: "{by: table, table: lab.later}" },
  ],
  [
    "Widen holdout.blind, or remove it from the file.",
    { holdout: "{share: 0.3, seed: 3, blind: {share: 0.00001}}" },
    { holdout: "{share: 0.3, seed: 3, blind: {share: 0.2}}" },
    { holdout: "{share: 0.3, seed: 3}" },
  ],
  [
    "Add a fill step for columns with missing values.",
    { ...LATER, of: "gap, x3", steps: lackingLater("gap") },
    { ...LATER, of: "gap, x3", steps: `${lackingLater("gap")}{do: fill, columns: [gap], with: mean}, ` },
  ],
  [
    "Check rows.train and the target.",
    { ...LATER, target: "{column: gap, kind: number}", steps: lackingLater("gap") },
    { target: "{column: gap, kind: number}", steps: lackingLater("gap"), train: "gap is not null" },
  ],
  [
    "Lower validation_share.",
    {
      ...LATER,
      learner: "neural_network",
      settings: "{epochs: 2, validation_share: 0.5}",
      train: "'id in (1, 5)'",
    },
    {
      ...LATER,
      learner: "neural_network",
      settings: "{epochs: 2, validation_share: 0}",
      train: "'id in (1, 5)'",
    },
  ],
  [
    "Leave category columns unencoded (algorithms handle them), or learn fewer terms.",
    {
      of: "x1, many, many2, many3, many4, many5, many6",
      steps: `${MANY}{do: encode, columns: [many, many2, many3, many4, many5, many6], most_levels: 500}, `,
      settings: "{ridge: 1}",
    },
    { of: "x1, many", steps: MANY, settings: "{ridge: 1}" },
  ],
  [
    "Set a small ridge as well, such as 0.001, for collinear features.",
    {
      of: "x1, x3, sum_of_others",
      steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, `,
      settings: "{lasso: 0.0000001}",
    },
    {
      of: "x1, x3, sum_of_others",
      steps: `{do: derive, columns: {sum_of_others: "2 * x1 - x3"}}, `,
      settings: "{lasso: 0.0000001, ridge: 0.001}",
    },
  ],
];
