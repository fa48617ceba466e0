import type { Part } from "./field";

const isObject = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** Which of its forms a setting has: its position, or -1. */
export function partOf(parts: readonly Part[], value: unknown): number {
  return parts.findIndex(({ is }) => {
    if ("value" in is) return is.value === value;
    if (is.key !== undefined) return isObject(value) && is.key in value;
    if ("input" in is)
      return Array.isArray(is.initial) ? Array.isArray(value) : typeof value === typeof is.initial;
    // Several objects are told apart by what they begin with that others have not.
    const own = Object.keys(is.initial);
    return isObject(value) && (parts.length === 1 || own.every((name) => name in value));
  });
}

/** The value a setting gets when a form is chosen for it. */
export function initialOf({ is }: Part): unknown {
  if ("value" in is) return is.value;
  return is.key === undefined ? is.initial : { [is.key]: is.initial };
}

/** What stands inside of a form, and how a change of it is put back. */
export function insideOf(
  { is }: Part,
  value: unknown,
): { readonly inner: unknown; readonly wrap: (inner: unknown) => unknown } {
  if ("value" in is || is.key === undefined) return { inner: value, wrap: (inner) => inner };
  const { key } = is;
  return { inner: isObject(value) ? value[key] : undefined, wrap: (inner) => ({ [key]: inner }) };
}
