import type { Delivery } from "./operating-schema";

/** The first delivery of predictions: the one that is meant where none is named. */
export const predictionDelivery = (deliveries: readonly Delivery[]): Delivery | undefined =>
  deliveries.find(({ of }) => of === "predictions");

/** The delivery of a name; where none is named, the first of predictions, or of features where there is no other. */
export const deliveryNamed = (
  deliveries: readonly Delivery[],
  name: string | undefined,
): Delivery | undefined =>
  name === undefined
    ? (predictionDelivery(deliveries) ?? deliveries[0])
    : deliveries.find((delivery) => delivery.name === name);
