/** A name that none of the others has: the wanted one, or with the first number behind it that makes it so. */
export function freeTitle(wanted: string, taken: readonly string[]): string {
  let [found, number] = [wanted, 2];
  while (taken.includes(found)) {
    found = `${wanted} ${number}`;
    number += 1;
  }
  return found;
}
