import JSZip from "jszip";

const MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";

/**
 * Packs a workbook out of what its sheets hold, as XML, so that it can be as no program writes it.
 * @param sheets the inside of each sheet; they are called s0, s1 and so on
 * @param strings the inside of the list of shared texts
 */
export async function packWorkbook(sheets: readonly string[], strings = ""): Promise<Buffer> {
  const archive = new JSZip();
  const of = (item: (index: number) => string): string => sheets.map((_, index) => item(index)).join("");
  archive.file(
    "xl/workbook.xml",
    `<workbook xmlns="${MAIN}" xmlns:r="r"><sheets>${of((index) => `<sheet name="s${index}" sheetId="${index + 1}" r:id="i${index}"/>`)}</sheets></workbook>`,
  );
  archive.file(
    "xl/_rels/workbook.xml.rels",
    `<Relationships>${of((index) => `<Relationship Id="i${index}" Target="worksheets/sheet${index}.xml"/>`)}</Relationships>`,
  );
  for (const [index, rows] of sheets.entries())
    archive.file(`xl/worksheets/sheet${index}.xml`, `<x:worksheet xmlns:x="${MAIN}">${rows}</x:worksheet>`);
  if (strings) archive.file("xl/sharedStrings.xml", `<sst>${strings}</sst>`);
  return archive.generateAsync({
    type: "nodebuffer",
    compression: "DEFLATE",
    compressionOptions: { level: 1 },
  });
}
