import { readdirSync, readFileSync, statSync } from "node:fs";
import path from "node:path";
import ts from "typescript";

/** A piece of advice in the source: where it is given, and what its text looks like. */
export interface Advice {
  readonly place: string;
  readonly text: string;
  readonly pattern: RegExp;
}

/** Functions that make problems or report them, and which of their arguments is the advice. */
const MAKERS: readonly (readonly [name: RegExp, argument: number])[] = [
  [/^(problem|warning|refuse|report)$/, 2],
  [/^(this|checker)\.report$/, 3],
  [/^context\.report$/, 2],
  [/^refused$/, 1],
];

/** Files of a folder and of those in it; or the one file that is named. */
const filesIn = (folder: string): readonly string[] =>
  statSync(folder).isFile()
    ? [folder]
    : readdirSync(folder).flatMap((name) => {
        const place = path.join(folder, name);
        if (statSync(place).isDirectory()) return filesIn(place);
        return /(?<!\.test)\.ts$/.test(name) ? [place] : [];
      });

const escaped = (text: string): string => text.replaceAll(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** Texts that an expression may give: those of both branches of a condition, and templates with anything in their gaps. */
function textsOf(node: ts.Expression): readonly string[] {
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return [escaped(node.text)];
  if (ts.isConditionalExpression(node)) return [...textsOf(node.whenTrue), ...textsOf(node.whenFalse)];
  if (ts.isTemplateExpression(node))
    return [
      escaped(node.head.text) +
        node.templateSpans.map((span) => `[^]*${escaped(span.literal.text)}`).join(""),
    ];
  return [];
}

/** All advice that stands in the sources of some folders as a text of its own. */
export function adviceIn(folders: readonly string[]): readonly Advice[] {
  return folders.flatMap(filesIn).flatMap((file) => {
    const source = ts.createSourceFile(file, readFileSync(file, "utf8"), ts.ScriptTarget.ES2022, true);
    const found: Advice[] = [];
    const visit = (node: ts.Node): void => {
      if (ts.isCallExpression(node)) {
        const name = node.expression.getText(source);
        const argument = MAKERS.find(([maker]) => maker.test(name))?.[1];
        const advice = argument === undefined ? undefined : node.arguments[argument];
        const line = source.getLineAndCharacterOfPosition(node.getStart()).line + 1;
        for (const text of advice ? textsOf(advice) : [])
          found.push({ place: `${file}:${line}`, text, pattern: new RegExp(`^${text}$`) });
      }
      ts.forEachChild(node, visit);
    };
    visit(source);
    return found;
  });
}
