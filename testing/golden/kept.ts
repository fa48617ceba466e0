import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { GoldenTable } from "./engine";

const FOLDER = join(process.cwd(), "testing", "golden");

/** Whether the answers of this run are to be kept instead of compared: only for new cases or a change that is meant. */
export const isWriting = process.env["RAVLEN_WRITE_GOLDEN"] === "1";

const readJson = (path: string): unknown => JSON.parse(readFileSync(path, "utf8"));

/** The tables that the cases read, in the order of their files' names. */
export const goldenTables = (): readonly GoldenTable[] =>
  readdirSync(join(FOLDER, "tables"))
    .toSorted()
    .map((name) => readJson(join(FOLDER, "tables", name)) as GoldenTable);

/** Cases by the name of their file without its ending. */
export const readCases = <Case>(area: string): ReadonlyMap<string, readonly Case[]> =>
  new Map(
    readdirSync(join(FOLDER, area))
      .toSorted()
      .map((name) => [name.replace(/\.json$/, ""), readJson(join(FOLDER, area, name)) as readonly Case[]]),
  );

/** Replaces the cases of one file. Prettier gives it its final form. */
export function writeCases(area: string, name: string, cases: readonly unknown[]): void {
  writeFileSync(join(FOLDER, area, `${name}.json`), JSON.stringify(cases, null, 2));
}
