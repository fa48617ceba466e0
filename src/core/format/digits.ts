/** A double tells so many decimal digits apart, whatever they are (IEEE 754: 15.95). */
const SURE_DIGITS = 15;
/** As many as can be asked for. */
const MOST_DIGITS = 100;

/** The digits of a number as it is written, without sign, point, exponent and zeros in front. */
const digitsOf = (text: string): string =>
  text
    .replace(/[eE].*$/, "")
    .replaceAll(/[^\d]/g, "")
    .replace(/^0+/, "");

/**
 * Whether a number that is written out comes back with the same digits once it was a double.
 * @param text a decimal number with either mark, or with an exponent
 */
export function doubleHolds(text: string): boolean {
  if (text.length <= SURE_DIGITS) return true;
  const digits = digitsOf(text);
  const told = digits.replace(/0+$/, "").length;
  if (told <= SURE_DIGITS) return true;
  if (told > MOST_DIGITS) return false;
  const lastMark = Math.max(text.lastIndexOf("."), text.lastIndexOf(","));
  const whole = text.slice(0, Math.max(0, lastMark)).replaceAll(/[.,]/g, "");
  const number = Number(lastMark < 0 ? text : `${whole}.${text.slice(lastMark + 1)}`);
  const written = digits.slice(0, told);
  // Exactly between two, rounding takes the upper one and the shortest form may be the lower one.
  return digitsOf(number.toPrecision(told)) === written || digitsOf(String(number)) === written;
}
