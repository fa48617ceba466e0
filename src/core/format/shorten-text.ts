const ELLIPSIS = "…";

/** A text of data as a message names it: its beginning, when it is long. @param most characters of the result */
export function shortenText(text: string, most = 60): string {
  const characters = [...text.slice(0, 2 * most)];
  return characters.length <= most && text.length <= 2 * most
    ? text
    : `${characters.slice(0, most - 1).join("")}${ELLIPSIS}`;
}
