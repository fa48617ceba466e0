/**
 * How deep objects and lists of the grammar may lie in each other: about 400 operators, one inside the other. Everything that
 * reads an expression follows it inwards, and would otherwise run out of stack.
 */
const DEEPEST = 800;

/** Whether what the grammar made of a text lies too deep in itself to be read. */
export function isTooDeep(parsed: unknown): boolean {
  let level: readonly unknown[] = [parsed];
  for (let depth = 0; level.length > 0; depth += 1) {
    if (depth > DEEPEST) return true;
    level = level.flatMap((node) => (typeof node === "object" && node !== null ? Object.values(node) : []));
  }
  return false;
}
