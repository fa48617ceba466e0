import { formatNumber } from "../format/numbers";
import { Fits } from "./classify";
import type { Choices, FileLook } from "./look";

/** What is done with values that are no numbers among numbers, column by column, in words: one line for each kind. */
export function valueNotes(
  look: Pick<FileLook, "findings">,
  choices: Pick<Choices, "columns" | "values">,
): readonly string[] {
  return choices.columns.flatMap(({ place, name, type, take }) => {
    const found = look.findings[place];
    if (!take || !found || type === "text") return [];
    const missing = (found.markers ?? []).filter(([marker]) => choices.values.missing.includes(marker));
    const infinite = found.masks.reduce(
      (sum, [mask, rows]) => sum + ((mask & Fits.INFINITE) === 0 ? 0 : rows),
      0,
    );
    return [
      ...missing.map(
        ([marker, rows]) =>
          `"${name}": ${formatNumber(rows)} value${rows === 1 ? "" : "s"} “${marker}” ${rows === 1 ? "is" : "are"} loaded as missing.`,
      ),
      ...(infinite > 0 && type === "double precision"
        ? [
            `"${name}": ${formatNumber(infinite)} value${infinite === 1 ? "" : "s"} ${infinite === 1 ? "is" : "are"} infinite, and loaded as Infinity; give ${infinite === 1 ? "it" : "them"} another value in a step before training.`,
          ]
        : []),
    ];
  });
}
