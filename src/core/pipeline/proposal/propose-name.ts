import { freeName } from "../../names/hidden";

const MOST_CHARACTERS = 55;

/** Whether a pipeline can have a name; the same as the file's own rule. */
export const isPipelineName = (name: string): boolean => /^[\p{L}\p{N}][\p{L}\p{N}_-]{0,62}$/u.test(name);

const asName = (text: string): string =>
  text
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, "-")
    .replaceAll(/^-+|-+$/g, "");

/** A name for a pipeline by its table and its answer, which no other has yet; empty when nothing of them can be part of one. */
export function proposeName(table: string, answer: string, taken: readonly string[]): string {
  const words = [...new Set([asName(table), asName(answer)])].filter((word) => word !== "");
  const name = [...words.join("-")].slice(0, MOST_CHARACTERS).join("").replaceAll(/-+$/g, "");
  return name === "" ? "" : freeName(name, taken);
}
