/**
 * Reads a share as people write it: "20 %", "20%", "0.2" or "0,2". Gives undefined for anything else, and for shares that are not above 0
 * and below 1.
 */
export function readShare(text: string): number | undefined {
  const [, digits, percent] = /^\s*(\d+(?:[.,]\d+)?|[.,]\d+)\s*(%?)\s*$/.exec(text) ?? [];
  if (digits === undefined) return undefined;
  const value = Number(digits.replace(",", ".")) / (percent === "%" ? 100 : 1);
  return value > 0 && value < 1 ? Number(value.toPrecision(12)) : undefined;
}

/** Writes a share in percent, as {@link readShare} reads it: "20 %". */
export const writeShare = (share: number): string => `${Number((100 * share).toPrecision(12))} %`;
