import ExcelJS, { type CellValue } from "exceljs";
import { statSync } from "node:fs";
import { problem, ProblemError } from "@/core/problem";
import type { Batch, OpenRows } from "./text-source";

/** A workbook is unpacked in memory: larger ones are better saved as CSV. */
const MOST_BYTES = 80_000_000;

/** What a cell shows, as text. Formulas give their stored result; merged cells all give the value of the first. */
function textOf(value: CellValue): string | null {
  if (value === null || value === undefined) return null;
  if (value instanceof Date) {
    const text = value.toISOString();
    return text.endsWith("T00:00:00.000Z") ? text.slice(0, 10) : text.slice(0, 19).replace("T", " ");
  }
  if (typeof value !== "object") return String(value);
  if ("error" in value) return null;
  if ("richText" in value) return value.richText.map((each) => each.text).join("");
  if ("result" in value) return textOf(value.result as CellValue);
  if ("text" in value) return typeof value.text === "string" ? value.text : textOf(value.text as CellValue);
  return null;
}

/** Reads one sheet of a workbook; its first row with values holds the headings. */
export async function openExcel(
  file: string,
  wanted: string | undefined,
): Promise<OpenRows & { readonly sheets: readonly string[]; readonly sheet: string }> {
  if (statSync(file).size > MOST_BYTES)
    throw new ProblemError(
      problem(
        "workbook_too_large",
        `The workbook has ${Math.round(statSync(file).size / 1e6)} MB; at most ${MOST_BYTES / 1e6} are unpacked.`,
        "Save the sheet as CSV and import that.",
      ),
    );
  const workbook = new ExcelJS.Workbook();
  try {
    await workbook.xlsx.readFile(file);
  } catch (error) {
    throw new ProblemError(
      problem(
        "no_workbook",
        `This is no Excel workbook (xlsx): ${error instanceof Error ? error.message.slice(0, 120) : ""}`,
        "Open it where it was made and save it as xlsx or CSV.",
      ),
    );
  }
  const sheets = workbook.worksheets.map((each) => each.name);
  const sheet =
    wanted === undefined
      ? workbook.worksheets.find((each) => each.actualRowCount > 0)
      : workbook.getWorksheet(wanted);
  if (!sheet)
    throw new ProblemError(
      problem(
        "no_sheet",
        wanted === undefined ? "The workbook has no sheet with values." : `There is no sheet "${wanted}".`,
        sheets.length > 0 ? `There is: ${sheets.join(", ")}.` : undefined,
      ),
    );
  let headings: readonly string[] | undefined;
  const width = sheet.columnCount;
  const rows: { line: number; values: (string | null)[] }[] = [];
  sheet.eachRow({ includeEmpty: false }, (row, line) => {
    const values = Array.from({ length: width }, (_, place) => textOf(row.getCell(place + 1).value));
    if (values.every((each) => each === null || each.trim() === "")) return;
    if (headings) rows.push({ line, values });
    else headings = values.map((each, place) => each ?? `column ${place + 1}`);
  });
  const bytes = statSync(file).size;
  async function* batches(): AsyncGenerator<Batch> {
    yield await Promise.resolve({ rows, broken: [], bytes });
  }
  return { headings: () => headings ?? [], sheets, sheet: sheet.name, batches: batches() };
}
