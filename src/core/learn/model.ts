import { z } from "zod";
import { baseRateModelSchema } from "./base-rate/base-rate";
import { bayesModelSchema } from "./naive-bayes/naive-bayes";
import { logisticModelSchema } from "./logistic-regression/logistic";
import { multinomialModelSchema } from "./logistic-regression/multinomial";
import { linearModelSchema } from "./linear-regression/regression";
import { supportVectorModelSchema } from "./support-vector/support-vector";
import { neighbourModelSchema } from "./nearest-neighbours/neighbours";
import { networkModelSchema } from "./neural-network/network";
import { boostedModelSchema, decisionTreeModelSchema, forestModelSchema } from "./trees/tree-models";

/** Any fitted model, as data. A stored model is checked against this when it is read. */
export const modelSchema = z.discriminatedUnion("algorithm", [
  baseRateModelSchema,
  linearModelSchema,
  logisticModelSchema,
  multinomialModelSchema,
  supportVectorModelSchema,
  bayesModelSchema,
  decisionTreeModelSchema,
  forestModelSchema,
  boostedModelSchema,
  neighbourModelSchema,
  networkModelSchema,
]);
export type Model = z.infer<typeof modelSchema>;

/** The models of one kind. */
export type ModelOf<Name extends Model["algorithm"]> = Extract<Model, { algorithm: Name }>;
