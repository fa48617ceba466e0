import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import ts from "typescript";

/** A text that a person may read, and where it stands. */
export interface Text {
  readonly file: string;
  /** From 1. */
  readonly line: number;
  readonly text: string;
}

/** Attributes of elements whose texts nobody reads. */
const UNREAD_ATTRIBUTES = new Set([
  "className",
  "d",
  "href",
  "id",
  "key",
  "name",
  "style",
  "type",
  "viewBox",
]);
/** Statements are written for a warehouse. */
const STATEMENT =
  /^\s*(SELECT|INSERT|UPDATE|DELETE|CREATE|ALTER|DROP|WITH|COPY|SET|GRANT|REVOKE|BEGIN|COMMIT|LOCK|COMMENT|ORDER|GROUP|WHERE|FROM|JOIN|LEFT|CASE|EXISTS|ANALYZE|COALESCE|COUNT)\b/;
const HAS_WORD = /[a-z]{2}/i;
/** Utility classes, paths, names in code. */
const IN_CODE = /^[\w@./:[\]()#%-]*$|(^|\s)(flex|grid|text-|px-|py-|mt-|gap-|border|rounded|w-|h-|min-w)/;

/**
 * @param root a folder of source
 * @returns every text in it that may be read by a person, in the order of files and lines
 */
export function listTexts(root: string): Text[] {
  return readdirSync(root, { recursive: true, encoding: "utf8" })
    .filter((file) => /\.tsx?$/.test(file) && !/\.test\.ts$/.test(file))
    .sort()
    .flatMap((file) => textsOf(join(root, file)));
}

function textsOf(file: string): Text[] {
  const source = ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true);
  const found: Text[] = [];
  const keep = (node: ts.Node, raw: string): void => {
    const text = raw.replace(/\s+/g, " ").trim();
    if (!(ts.isJsxText(node) ? HAS_WORD.test(text) : isRead(text))) return;
    const { line } = source.getLineAndCharacterOfPosition(node.getStart(source));
    found.push({ file, line: line + 1, text });
  };
  const visit = (node: ts.Node): void => {
    if (isUnread(node)) return;
    if (ts.isJsxText(node)) keep(node, node.text);
    if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) keep(node, node.text);
    if (ts.isTemplateExpression(node)) keep(node, templateText(node));
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

/** A template with an ellipsis for every value in it. */
function templateText(node: ts.TemplateExpression): string {
  return node.head.text + node.templateSpans.map((span) => `…${span.literal.text}`).join("");
}

function isUnread(node: ts.Node): boolean {
  if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isLiteralTypeNode(node)) return true;
  return ts.isJsxAttribute(node) && UNREAD_ATTRIBUTES.has(node.name.getText());
}

function isRead(text: string): boolean {
  if (!HAS_WORD.test(text) || STATEMENT.test(text)) return false;
  return /^[A-Z][a-z]+$/.test(text) || !IN_CODE.test(text);
}
