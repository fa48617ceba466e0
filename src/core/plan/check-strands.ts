import { checkExpression, type CheckedExpression } from "../expression/check";
import type { Expression } from "../expression/ast";
import { parseExpression } from "../expression/parse";
import { suggestion } from "../nearest";
import type { PipelineFile, StrandFile } from "../pipeline/schema";
import { parseTableName, writeTableName } from "../pipeline/table-name";
import { located, problem, warning, type Problem } from "../problem";
import type { TableReference } from "../relation/relation";
import { stepKind } from "../steps";
import { freeName, HIDDEN_PREFIX, isHidden } from "../names/hidden";
import { isUsableIdentifier } from "../names/identifier";
import type { BoundStep, CheckContext, ColumnSet, ColumnState } from "../steps/step";
import { findTable, type Catalog } from "./catalog";
import type { CheckedStep, CheckedStrand } from "./plan";

type Path = readonly (string | number)[];

/** Parses every expression once and remembers it. */
export class Expressions {
  private readonly parsed = new Map<string, ReturnType<typeof parseExpression>>();

  parse(text: string, other?: string): ReturnType<typeof parseExpression> {
    const key = other === undefined ? text : `${other}\0${text}`;
    const known = this.parsed.get(key);
    if (known) return known;
    const fresh = parseExpression(text, other);
    this.parsed.set(key, fresh);
    return fresh;
  }

  /** An expression already known to be good. */
  readonly get = (text: string, other?: string): Expression => {
    const found = this.parse(text, other);
    if (!found.ok) throw new RangeError(`expression was not checked: ${text.slice(0, 80)}`);
    return found.value;
  };
}

/** Parses and checks one expression over given columns; bundles are hidden from it. */
export function checkedExpression(
  expressions: Expressions,
  text: string,
  columns: ColumnSet,
  options: { readonly aggregates: "required" | "forbidden"; readonly other?: string | undefined },
  report: (found: Problem) => void,
): { readonly expression: Expression; readonly checked: CheckedExpression } | undefined {
  const parsed = expressions.parse(text, options.other);
  if (!parsed.ok) {
    parsed.problems.forEach(report);
    return undefined;
  }
  const visible = new Map([...columns].filter(([, state]) => !state.bundle));
  const checked = checkExpression(parsed.value, { columns: visible, aggregates: options.aggregates });
  if (!checked.ok) {
    checked.problems.forEach(report);
    return undefined;
  }
  return { expression: parsed.value, checked: checked.value };
}

/** Strands in an order in which each comes after those it reads; a cycle is reported once, with its members. */
export function orderStrands(file: PipelineFile, report: (found: Problem) => void): readonly StrandFile[] {
  const byName = new Map(file.strands.map((strand) => [strand.name, strand]));
  const ordered: StrandFile[] = [];
  const state = new Map<string, "open" | "done">();
  const visit = (strand: StrandFile, trail: readonly string[]): void => {
    if (state.get(strand.name) === "done") return;
    const index = file.strands.indexOf(strand);
    if (state.get(strand.name) === "open") {
      const circle = [...trail.slice(trail.indexOf(strand.name)), strand.name].join(" → ");
      report(
        problem(
          "strand_cycle",
          `The strands depend on each other in a cycle: ${circle}.`,
          "Start one of them from a table instead.",
          { path: ["strands", index, "name"] },
        ),
      );
      return;
    }
    state.set(strand.name, "open");
    for (const name of neededStrands(strand)) {
      const other = byName.get(name);
      if (other) visit(other, [...trail, strand.name]);
    }
    state.set(strand.name, "done");
    ordered.push(strand);
  };
  for (const strand of file.strands) visit(strand, []);
  return ordered;
}

function neededStrands(strand: StrandFile): readonly string[] {
  const start = typeof strand.from === "object" && "strand" in strand.from ? [strand.from.strand] : [];
  return [
    ...start,
    ...strand.steps.flatMap((step) => stepKind(String(step["do"]))?.bind(step).strands ?? []),
  ];
}

/** The table a strand begins at, or undefined when it begins at another strand or the name cannot be read. */
export function sourceTable(strand: StrandFile): TableReference | undefined {
  if (typeof strand.from === "string") return parseTableName(strand.from);
  return "table" in strand.from ? strand.from : undefined;
}

export interface StrandChecks {
  readonly file: PipelineFile;
  readonly catalog: Catalog;
  readonly expressions: Expressions;
  readonly report: (found: Problem) => void;
  readonly done: Map<string, CheckedStrand>;
}

/** Checks one strand, given that those it uses are already in `done`. */
export function checkStrand(strand: StrandFile, checks: StrandChecks): CheckedStrand {
  const index = checks.file.strands.indexOf(strand);
  const path: Path = ["strands", index];
  const { from, start, renamed } = strandStart(strand, path, checks);
  const steps: CheckedStep[] = [];
  let columns = start;
  for (const [position, raw] of strand.steps.entries()) {
    const bound = stepKind(String(raw["do"]))?.bind(raw);
    if (!bound) continue;
    const stepPath = [...path, "steps", position];
    const shape = bound.check(stepContext(strand.name, position, bound, columns, stepPath, checks));
    if (bound.learns && strand.name !== checks.file.rows.from) {
      checks.report(
        problem(
          "learns_outside_main",
          `"${bound.name}" learns from training rows, but the strand "${strand.name}" does not determine which rows those are.`,
          `Move it into the strand "${checks.file.rows.from}", after the join.`,
          { path: [...stepPath, "do"], step: bound.name },
        ),
      );
    }
    for (const name of shape.output.keys())
      if (isHidden(name) && !columns.has(name))
        checks.report(
          problem(
            "reserved_name",
            `"${name}" starts with ${HIDDEN_PREFIX}, which is reserved for Ravlen's own columns.`,
            "Choose another name.",
            { path: [...stepPath, "do"], step: bound.name },
          ),
        );
    steps.push({ step: bound, shape, input: columns });
    columns = shape.output;
  }
  return {
    name: strand.name,
    from,
    start,
    ...(renamed ? { renamed } : {}),
    steps,
    output: columns,
    ...(strand.note === undefined ? {} : { note: strand.note }),
  };
}

function strandStart(
  strand: StrandFile,
  path: Path,
  checks: StrandChecks,
): Pick<CheckedStrand, "from" | "start" | "renamed"> {
  const fromPath = [...path, "from"];
  if (typeof strand.from === "object" && "strand" in strand.from) {
    const other = checks.done.get(strand.from.strand);
    if (
      !other &&
      strand.from.strand !== strand.name &&
      !checks.file.strands.some((oneStrand) => oneStrand.name === (strand.from as { strand: string }).strand)
    ) {
      checks.report(
        problem(
          "unknown_strand",
          `There is no strand "${strand.from.strand}".`,
          suggestion(
            strand.from.strand,
            checks.file.strands.map((strand) => strand.name),
            "strand",
          ),
          { path: [...fromPath, "strand"] },
        ),
      );
    }
    return { from: { kind: "strand", name: strand.from.strand }, start: other?.output ?? new Map() };
  }
  const source = sourceTable(strand);
  const known = source && findTable(checks.catalog, source);
  if (!source || !known) {
    const written =
      typeof strand.from === "string" ? strand.from : writeTableName(source ?? { schema: "?", table: "?" });
    const message = source
      ? `There is no table ${written} in the warehouse.`
      : `"${written}" is not a table name.`;
    checks.report(
      problem(
        "unknown_table",
        message,
        source
          ? suggestion(written, checks.catalog.tables.map(writeTableName), "table")
          : "Write schema.table.",
        { path: fromPath },
      ),
    );
    return { from: { kind: "table", source: source ?? { schema: "?", table: "?" } }, start: new Map() };
  }
  const renamed = renamedColumns(known.columns.map((column) => column.name));
  if (renamed.size > 0)
    checks.report(
      warning(
        "renamed_column",
        `Names that start with ${HIDDEN_PREFIX} are reserved for Ravlen, so in this pipeline ${[...renamed].map(([name, own]) => `"${own}" of ${writeTableName(known)} is called "${name}"`).join(", ")}.`,
        undefined,
        { path: fromPath },
      ),
    );
  const called = new Map([...renamed].map(([name, own]) => [own, name]));
  const start = new Map(
    known.columns.map((column): [string, ColumnState] => {
      const full = `${writeTableName(known)}.${column.name}`;
      const name = called.get(column.name) ?? column.name;
      const state = { name, type: column.type, nullable: column.nullable };
      return [name, { ...state, identity: full, sources: [full], parents: [] }];
    }),
  );
  return { from: { kind: "table", source }, start, ...(renamed.size > 0 ? { renamed } : {}) };
}

/** Columns of a source whose names are ours: what they are called in a pipeline, and their own names. */
function renamedColumns(names: readonly string[]): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  for (const own of names.filter(isHidden)) {
    // Cut by code points, so that the name stays one that a column can have.
    let short = own;
    while (!isUsableIdentifier(`source_${short}_99`)) short = [...short].slice(0, -1).join("");
    found.set(freeName(`source_${short}`, [...names, ...found.keys()]), own);
  }
  return found;
}

function stepContext(
  strand: string,
  position: number,
  step: BoundStep,
  input: ColumnSet,
  path: Path,
  checks: StrandChecks,
): CheckContext {
  const report: CheckContext["report"] = (found, inner) =>
    checks.report(located(found, { path: [...path, ...inner], step: step.name }));
  return {
    input,
    report,
    strand: (name, inner) => {
      const other = checks.done.get(name);
      if (!other && !checks.file.strands.some((strand) => strand.name === name)) {
        report(
          problem(
            "unknown_strand",
            `There is no strand "${name}".`,
            suggestion(
              name,
              checks.file.strands.map((strand) => strand.name),
              "strand",
            ),
          ),
          inner,
        );
      }
      return other?.output;
    },
    column: (name, inner) => {
      const found = input.get(name);
      if (!found)
        report(
          problem(
            "unknown_column",
            `There is no column "${name}" at this step.`,
            suggestion(name, input.keys(), "column"),
          ),
          inner,
        );
      return found;
    },
    expression: (text, inner, options) =>
      checkedExpression(
        checks.expressions,
        text,
        options?.columns ?? input,
        { aggregates: options?.aggregates ?? "forbidden", other: options?.other },
        (found) => report(found, inner),
      ),
    target: checks.file.roles.target,
    written: (name, checked, from) => {
      return {
        name,
        type: checked.type,
        nullable: checked.nullable,
        identity: `${strand}/${position}/${name}`,
        sources: [...new Set(from.flatMap((column) => column.sources))],
        parents: [...new Set(from.map((column) => column.identity))],
      };
    },
  };
}
