import { listTexts } from "./texts";

/** Prints every text of the source that a person may read, with where it stands. */
process.stdout.write(
  listTexts("src")
    .map(({ file, line, text }) => `${file}:${line}\t${text}\n`)
    .join(""),
);
