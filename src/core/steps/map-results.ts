import type { Scalar } from "./shared";

interface Mapped {
  readonly values: Readonly<Record<string, Scalar>>;
  readonly rest: "keep" | "missing" | { readonly constant: Scalar };
  readonly missing?: Scalar | undefined;
}

/** The pairs with their results as numbers, when all are. */
export function asNumbers(
  values: Readonly<Record<string, Scalar>>,
): readonly (readonly [string, number])[] | undefined {
  const pairs = Object.entries(values);
  return pairs.every(([, value]) => typeof value === "number")
    ? pairs.map(([key, value]) => [key, value as number])
    : undefined;
}

/** The type of what a mapping gives, or undefined when numbers and texts are mixed. */
export function mapResultType(current: Mapped): "double precision" | "text" | undefined {
  const results = [
    ...Object.values(current.values),
    ...(typeof current.rest === "object" ? [current.rest.constant] : []),
    ...(current.missing === undefined ? [] : [current.missing]),
  ];
  const numbers = results.filter((result) => typeof result === "number").length;
  if (numbers === results.length && results.length > 0) return "double precision";
  return numbers === 0 ? "text" : undefined;
}
