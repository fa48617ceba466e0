import { Open } from "unzipper";
import { noWorkbook, readAllXml, tooLarge } from "./xml";

/** A part of a workbook, unpacked as it is read. */
export type Part = () => AsyncIterable<Buffer>;

export interface Sheet {
  readonly name: string;
  readonly part: Part;
}

/** What the sheets of a workbook have in common. */
export interface WorkbookParts {
  readonly sheets: readonly Sheet[];
  readonly strings: readonly string[];
  /** By number of a cell's style, whether it shows a date or time. */
  readonly dates: readonly boolean[];
  /** Days are counted from 1904, not from 1900. */
  readonly from1904: boolean;
}

const MOST_PARTS = 10_000;
const MOST_STRINGS = 10_000_000;
/** Characters of all texts together, which are kept in memory while rows are read. */
const MOST_CHARACTERS = 100_000_000;

/** Characters that XML cannot hold are written as _xHHHH_ (ECMA-376, 22.9.2.19). */
export const plainText = (text: string): string =>
  text.replaceAll(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) =>
    String.fromCharCode(Number.parseInt(code, 16)),
  );

/** Texts that cells name by their number. Readings of characters are no part of them. */
async function readStrings(part: Part): Promise<readonly string[]> {
  const strings: string[] = [];
  let characters = 0;
  let text = "";
  let inText = false;
  let reading = 0;
  await readAllXml(part(), {
    open: ({ name }) => {
      if (name === "si") text = "";
      else if (name === "rPh") reading += 1;
      else if (name === "t") inText = true;
    },
    text: (more) => {
      if (!inText || reading > 0) return;
      text += more;
      characters += more.length;
      if (characters > MOST_CHARACTERS)
        throw tooLarge(
          `The texts of the workbook have more than ${MOST_CHARACTERS / 1e6} million characters.`,
        );
    },
    close: (name) => {
      if (name === "t") inText = false;
      else if (name === "rPh") reading -= 1;
      else if (name === "si" && strings.push(plainText(text)) > MOST_STRINGS)
        throw tooLarge(`The workbook has more than ${MOST_STRINGS / 1e6} million different texts.`);
    },
  });
  return strings;
}

/** Built-in formats that show a date or a time (ECMA-376, 18.8.30), those of East Asian languages among them. */
const isBuiltInDate = (format: number): boolean =>
  (format >= 14 && format <= 22) ||
  (format >= 27 && format <= 36) ||
  (format >= 45 && format <= 47) ||
  (format >= 50 && format <= 58);

/** Whether a format's code has parts of a date outside of quoted text, colours and conditions. */
const isDateCode = (code: string): boolean =>
  /[dmyhs]/i.test(
    code.replaceAll(/\\.|_.|\*.|"[^"]*"/g, "").replaceAll(/\[(?!h+\]|m+\]|s+\])[^\]]*\]|General/gi, ""),
  );

async function readStyles(part: Part): Promise<readonly boolean[]> {
  const codes = new Map<number, string>();
  const dates: boolean[] = [];
  let inCells = false;
  await readAllXml(part(), {
    open: ({ name, attributes }) => {
      if (name === "numFmt") codes.set(Number(attributes["numFmtId"]), attributes["formatCode"] ?? "");
      else if (name === "cellXfs") inCells = true;
      else if (name === "xf" && inCells) {
        const format = Number(attributes["numFmtId"] ?? 0);
        const code = codes.get(format);
        dates.push(code === undefined ? isBuiltInDate(format) : isDateCode(code));
      }
    },
    close: (name) => {
      if (name === "cellXfs") inCells = false;
    },
  });
  return dates;
}

/** Opens a workbook's archive and reads what its sheets have in common. Problems: no_workbook, workbook_too_large. */
export async function openParts(file: string): Promise<WorkbookParts> {
  const archive = await Open.file(file).catch((error: unknown) => {
    throw noWorkbook(error instanceof Error ? error.message : String(error));
  });
  if (archive.files.length > MOST_PARTS) throw tooLarge(`The workbook has more than ${MOST_PARTS} parts.`);
  const partOf = (path: string): Part | undefined => {
    const found = archive.files.find((file) => file.path.toLowerCase() === path.toLowerCase());
    return found && (() => found.stream() as AsyncIterable<Buffer>);
  };
  const book = partOf("xl/workbook.xml");
  const relations = partOf("xl/_rels/workbook.xml.rels");
  if (!book || !relations) throw noWorkbook("it has no list of sheets.");
  const targets = new Map<string, string>();
  await readAllXml(relations(), {
    open: ({ name, attributes }) => {
      if (name === "Relationship") targets.set(attributes["Id"] ?? "", attributes["Target"] ?? "");
    },
  });
  const sheets: Sheet[] = [];
  let from1904 = false;
  await readAllXml(book(), {
    open: ({ name, attributes }) => {
      if (name === "workbookPr") from1904 = ["1", "true"].includes(attributes["date1904"] ?? "");
      if (name !== "sheet") return;
      const target = targets.get(attributes["id"] ?? "") ?? "";
      // Charts that fill a sheet of their own have no rows.
      const part = partOf(target.startsWith("/") ? target.slice(1) : `xl/${target}`);
      if (part && /worksheet/i.test(target)) sheets.push({ name: attributes["name"] ?? "", part });
    },
  });
  const [strings, styles] = [partOf("xl/sharedStrings.xml"), partOf("xl/styles.xml")];
  return {
    sheets,
    strings: strings ? await readStrings(strings) : [],
    dates: styles ? await readStyles(styles) : [],
    from1904,
  };
}
