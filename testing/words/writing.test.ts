import { readFileSync } from "node:fs";
import { listTexts, type Text } from "./texts";

/** The left column of the guide's last table: what is not written. */
function avoided(): string[] {
  const guide = readFileSync("docs/WRITING.md", "utf8");
  const table = guide.slice(guide.indexOf("| not "));
  return table
    .split("\n")
    .slice(2)
    .flatMap((row) => (row.split("|")[1] ?? "").split(","))
    .map((words) => words.trim())
    .filter((words) => words !== "");
}

const texts = listTexts("src").filter(({ text }) => !/\b(SELECT|FROM|BEGIN|AS)\b/.test(text));

/** What is not a sentence: addresses, names of files and of options. */
const withoutCode = (text: string): string => text.replace(/`[^`]*`|--?[a-z][\w-]*|\S*[/._]\S*/g, " ");

const findIn = (words: string): Text[] =>
  texts.filter(({ text }) => new RegExp(`\\b${words}\\b`, "i").test(withoutCode(text)));

test("texts are found in elements, attributes, messages and templates", () => {
  expect(texts.map(({ text }) => text)).toEqual(
    expect.arrayContaining(["Needs attention", "Pipeline not found.", "Save version"]),
  );
});

test.each(avoided())("no text of the source says “%s”", (words) => {
  expect(findIn(words).map(({ file, line, text }) => `${file}:${line} ${text}`)).toEqual([]);
});
