import type { Expression } from "./ast";

/** A text that two expressions share when they mean the same, wherever they were written. */
export const expressionKey = (node: Expression): string =>
  JSON.stringify(node, (name, value: unknown) => (name === "at" ? undefined : value));
