/** Stands before the names of the other side's columns in the condition of a join. No column of a table begins with it. */
const OTHER_SIDE = "\u001f";

/** The name by which a join's condition refers to a column of the right side. */
export const otherSide = (name: string): string => `${OTHER_SIDE}${name}`;

/** The column of the right side that a name in a join's condition refers to, or undefined for one of the left. */
export const fromOtherSide = (name: string): string | undefined =>
  name.startsWith(OTHER_SIDE) ? name.slice(OTHER_SIDE.length) : undefined;
