import { toldDelivery } from "@/core/pipeline/edit/told";
import { contractSchema, deliverySchema, type Delivery } from "@/core/pipeline/operating-schema";
import { freeTitle } from "../basic/free-title";

export interface DeliveryFacts {
  readonly pipeline: string;
  /** The schema of prediction tables. */
  readonly schema: string;
  /** Columns of the rows that are scored, those of the key left out. */
  readonly columns: readonly string[];
  readonly keys: readonly string[];
  /** Names of the deliveries that there are. */
  readonly taken: readonly string[];
  readonly target: "binary" | "classes" | "number";
  /** The threshold of a new delivery, where one was chosen on the page of a version. */
  readonly threshold?: number;
}

/** A new delivery, with a name and a table that are free. */
export const newDelivery = (facts: DeliveryFacts): Delivery => ({
  ...deliverySchema.parse({ name: "-", table: `${facts.schema}.${facts.pipeline.replaceAll("-", "_")}` }),
  name: freeTitle("predictions", facts.taken),
  ...(facts.threshold === undefined ? {} : { threshold: facts.threshold }),
});

/** A delivery as it is written into the file. */
export const deliveryEntry = (draft: Delivery): Record<string, unknown> =>
  toldDelivery({
    ...draft,
    name: draft.name.trim(),
    table: draft.table.trim(),
    partition: draft.mode === "partition" ? draft.partition : undefined,
  });

/** Columns that a delivered row has beside the prediction's own. */
export const carriedColumns = (draft: Delivery, facts: DeliveryFacts): readonly string[] =>
  draft.of === "predictions" ? [...facts.keys, ...draft.columns] : [...facts.keys, ...facts.columns];

/** A draft that delivers something else, under the name and into the table that go with it, unless others were chosen. */
export function withContent(draft: Delivery, of: Delivery["of"], facts: DeliveryFacts): Delivery {
  const proposed = (content: Delivery["of"]): Pick<Delivery, "name" | "table"> => ({
    name: freeTitle(content, facts.taken),
    table: `${facts.schema}.${facts.pipeline.replaceAll("-", "_")}${content === "features" ? "_features" : ""}`,
  });
  const [before, now] = [proposed(draft.of), proposed(of)];
  return {
    ...draft,
    of,
    name: draft.name === before.name ? now.name : draft.name,
    table: draft.table === before.table ? now.table : draft.table,
    ...(of === "features" ? { routes: [], reasons: 0 } : {}),
  };
}

/** The bounds with one of them changed; what is no bound stays in it, to be said when it is saved. */
export function contractOf(
  contract: Delivery["contract"],
  name: string,
  value: unknown,
): Delivery["contract"] {
  const rest = Object.fromEntries(Object.entries(contract).filter(([other]) => other !== name));
  return {
    ...contractSchema.parse({}),
    ...rest,
    ...(value === undefined ? {} : { [name]: value }),
  } as Delivery["contract"];
}
