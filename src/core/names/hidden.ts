/**
 * The one prefix of names that are ours. No column of a pipeline begins with it: those of a source are renamed where a strand begins,
 * and steps cannot make any. So no alias that is made here can meet a name of the user's.
 */
export const HIDDEN_PREFIX = "ravlen_";

/** A name of ours for a column or an alias, which needs no quotes in SQL. @param name lower-case letters, digits and _ */
export const hidden = (name: string): string => `${HIDDEN_PREFIX}${name}`;

/** Whether a column is ours. */
export const isHidden = (name: string): boolean => name.startsWith(HIDDEN_PREFIX);

/** A name that none of the others has: the wanted one, or with the first number behind it that makes it so. */
export function freeName(wanted: string, taken: readonly string[]): string {
  let [found, number] = [wanted, 2];
  while (taken.includes(found)) {
    found = `${wanted}_${number}`;
    number += 1;
  }
  return found;
}
