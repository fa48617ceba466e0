import { z } from "zod";
import { fitRecord } from "../fit-record";
import { treeSchema } from "./tree";

const gains = z.array(z.object({ column: z.string(), gain: z.number() }));

const treeFit = fitRecord.extend({
  /** How much of the loss the splits on each column took away, largest first. */
  gains,
  depth: z.number(),
});

/** One decision tree as data. Values are the mean target, the share of yes, or the share of each class. */
export const decisionTreeModelSchema = z.object({
  algorithm: z.literal("decision_tree"),
  tree: treeSchema,
  fit: treeFit,
});
export type DecisionTreeModel = z.infer<typeof decisionTreeModelSchema>;

/** A forest: the prediction is the mean of its trees. */
export const forestModelSchema = z.object({
  algorithm: z.literal("random_forest"),
  trees: z.array(treeSchema),
  fit: treeFit.extend({
    /** Mean loss (log loss; squared error for numbers) of predictions by the trees that did not see a row. */
    outOfBag: z.object({ loss: z.number(), rows: z.number() }),
  }),
});
export type ForestModel = z.infer<typeof forestModelSchema>;

/** Boosted trees: scores start at `start` and every tree adds to that of its output; the link turns scores into predictions. */
export const boostedModelSchema = z.object({
  algorithm: z.literal("boosted_trees"),
  link: z.enum(["identity", "logistic", "softmax"]),
  start: z.array(z.number()),
  /** One tree for each output in each round. Values are already times the learning rate. */
  rounds: z.array(z.array(treeSchema)),
  fit: treeFit.extend({
    learningRate: z.number(),
    /** Rounds grown, of which the first `rounds.length` are kept. */
    grown: z.number(),
  }),
});
export type BoostedModel = z.infer<typeof boostedModelSchema>;
