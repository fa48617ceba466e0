/** A figure of a column, with what is written before and after it so that decimal points stand under each other. */
export interface AlignedFigure {
  readonly text: string;
  readonly before: string;
  readonly after: string;
}

/** A space as wide as a digit. */
const FIGURE_SPACE = "\u2007";
const WHOLE_PART = /^[+-]?[\d,]+/;

/** Length of the whole part of a figure; a text without a figure is all whole. */
const wholeLength = (text: string): number => WHOLE_PART.exec(text)?.[0].length ?? text.length;

const longestOf = (lengths: readonly number[]): number =>
  lengths.reduce((most, length) => Math.max(most, length), 0);

/**
 * Aligns the figures of one column at the decimal point, in a face whose characters are equally wide. The figures
 * themselves stay as they are.
 *
 * @param rows the rows of the column
 * @param write the figure of a row, as it is written, with its unit if it has one
 * @returns the padded figure of a row; all have the same length and the same place for their decimal point
 */
export function figureColumn<Row>(
  rows: readonly Row[],
  write: (row: Row) => string,
): (row: Row) => AlignedFigure {
  const texts = rows.map(write);
  const [whole, rest] = [
    longestOf(texts.map(wholeLength)),
    longestOf(texts.map((text) => text.length - wholeLength(text))),
  ];
  return (row) => {
    const text = write(row);
    return {
      text,
      before: FIGURE_SPACE.repeat(Math.max(0, whole - wholeLength(text))),
      after: FIGURE_SPACE.repeat(Math.max(0, rest - (text.length - wholeLength(text)))),
    };
  };
}

/** A number as a database writes it: no date, no version, no code with a letter. */
const NUMBER = /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i;

/** Whether all texts are numbers, and there is at least one. */
export const areNumbers = (texts: readonly string[]): boolean =>
  texts.length > 0 && texts.every((text) => NUMBER.test(text));

/** Characters that a figure takes with its padding. */
export const paddedLength = ({ before, text, after }: AlignedFigure): number =>
  before.length + text.length + after.length;

/**
 * Aligns texts of one column at the decimal point where there is room for it.
 *
 * @param most characters that a padded figure may take
 * @returns the padded figure of a text, or undefined where there are no texts or they would take more
 */
export function alignWithin(
  texts: readonly string[],
  most: number,
): ((text: string) => AlignedFigure) | undefined {
  const [first] = texts;
  if (first === undefined) return undefined;
  const align = figureColumn(texts, (text) => text);
  return paddedLength(align(first)) <= most ? align : undefined;
}
