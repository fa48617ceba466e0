import { statSync } from "node:fs";
import { problem, ProblemError } from "@/core/problem";
import type { Batch, OpenRows } from "./text-source";
import { openParts } from "./workbook/parts";
import { sheetFacts, sheetRows } from "./workbook/sheet";

/** Reads one sheet of a workbook; its first row with values holds the headings. Memory does not grow with the rows. */
export async function openWorkbook(
  file: string,
  wanted: string | undefined,
): Promise<OpenRows & { readonly sheets: readonly string[]; readonly sheet: string }> {
  const bytes = statSync(file).size;
  const book = await openParts(file);
  const sheets = book.sheets.map((sheet) => sheet.name);
  for (const sheet of book.sheets) {
    if (wanted !== undefined && sheet.name !== wanted) continue;
    const facts = await sheetFacts(book, sheet);
    if (facts.cells === 0 && wanted === undefined) continue;
    let headings: readonly string[] | undefined;
    async function* batches(): AsyncGenerator<Batch> {
      for await (const rows of sheetRows(book, sheet, facts)) {
        if (!headings) headings = rows.shift()?.values.map((value, place) => value ?? `column ${place + 1}`);
        yield { rows, broken: [], bytes };
      }
    }
    return { headings: () => headings ?? [], sheets, sheet: sheet.name, batches: batches() };
  }
  throw new ProblemError(
    problem(
      "no_sheet",
      wanted === undefined ? "The workbook has no sheet with values." : `There is no sheet "${wanted}".`,
      sheets.length > 0 ? `Available: ${sheets.join(", ")}.` : undefined,
    ),
  );
}
