import { SaxesParser } from "saxes";
import { problem, ProblemError } from "@/core/problem";

export interface Tag {
  /** Without the prefix of a namespace. */
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
}

/** What is called while a part of a workbook is read. */
export interface XmlReader {
  readonly open?: (tag: Tag) => void;
  readonly text?: (text: string) => void;
  readonly close?: (name: string) => void;
}

/** Unpacked bytes that one part may have, whatever the archive says of it. */
const MOST_PART_BYTES = 4_000_000_000;

const local = (name: string): string => name.slice(name.indexOf(":") + 1);

export const tooLarge = (what: string): ProblemError =>
  new ProblemError(problem("workbook_too_large", what, "Save the sheet as CSV and import that."));

export const noWorkbook = (why: string): ProblemError =>
  new ProblemError(
    problem(
      "no_workbook",
      `Not an Excel workbook (xlsx): ${why.slice(0, 120)}`,
      "Save it again as xlsx or CSV.",
    ),
  );

/**
 * Reads XML piece by piece, in memory that does not grow with it. Yields after every piece, so that what was found can be taken on.
 * Problems: no_workbook, workbook_too_large.
 */
export async function* readXml(pieces: AsyncIterable<Buffer>, reader: XmlReader): AsyncGenerator<void> {
  const parser = new SaxesParser();
  const decoder = new TextDecoder();
  let bytes = 0;
  let wrong: Error | undefined;
  parser.on("error", (error) => {
    wrong ??= error;
  });
  parser.on("opentag", ({ name, attributes }) =>
    reader.open?.({
      name: local(name),
      attributes: Object.fromEntries(
        Object.entries(attributes).map(([attribute, value]) => [local(attribute), value]),
      ),
    }),
  );
  parser.on("text", (text) => reader.text?.(text));
  parser.on("cdata", (text) => reader.text?.(text));
  parser.on("closetag", ({ name }) => reader.close?.(local(name)));
  for await (const piece of pieces) {
    bytes += piece.length;
    if (bytes > MOST_PART_BYTES)
      throw tooLarge(`A part of the workbook has more than ${MOST_PART_BYTES / 1e9} GB once it is unpacked.`);
    parser.write(decoder.decode(piece, { stream: true }));
    if (wrong) throw noWorkbook(wrong.message);
    yield;
  }
  parser.close();
  if (wrong) throw noWorkbook(wrong.message);
}

/** Reads all of a part. */
export async function readAllXml(pieces: AsyncIterable<Buffer>, reader: XmlReader): Promise<void> {
  for await (const _piece of readXml(pieces, reader)) void _piece;
}
