import { checkPipeline } from "@/core/plan/check";
import type { Catalog } from "@/core/plan/catalog";
import { PlanBuilder, type LearnedValues } from "@/core/plan/build";
import { baseRelation, learnRelations } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { UNBUILT_BASE, withBase } from "@/core/plan/unbuilt-base";
import { parsePipeline } from "@/core/pipeline/parse";
import { ProblemError, type Problem } from "@/core/problem";
import type { Relation } from "@/core/relation/relation";
import { valueTypeFromName } from "@/core/value-type";
import type { Answer, GoldenTable, StepAnswer } from "../golden/engine";
import { ConditionError } from "./failure";
import { Interpreter, type Rows } from "./relations";
import { castValue, isWhole, writeValue, type Type, type Value } from "./values";

/** A value as a warehouse's driver hands it over. */
function handedOver(type: Type, value: Value): unknown {
  if (value === null) return null;
  if (type === "bigint" || type === "numeric") return writeValue(type, value);
  if (isWhole(type)) return Number(value);
  if (type === "timestamp" || type === "timestamptz") return new Date(Number((value as bigint) / 1000n));
  if (type === "date" || type === "interval") return writeValue(type, value);
  return value;
}

/** Longest value that the warehouse's engine shows, in characters. */
const LONGEST = 300;

const shown = (type: Type, value: Value): string | null => {
  const text = writeValue(type, value);
  return text === null ? null : [...text].slice(0, LONGEST).join("");
};

const refusal = (problems: readonly Problem[]): string =>
  `refused: ${problems.find(({ severity }) => severity === "error")?.code}`;

/** Computes pipelines over a few rows that are kept here. */
export class InterpreterEngine {
  private readonly tables = new Map<string, Rows>();
  private readonly catalog: Catalog["tables"][number][] = [];

  /** @param runTime the logical time, as an ISO 8601 text */
  constructor(private readonly runTime: string) {}

  load({ schema, table, columns, rows, key = [] }: GoldenTable): void {
    const types = columns.map(({ type }) => valueTypeFromName(type));
    this.tables.set(JSON.stringify([schema, table]), {
      columns: columns.map(({ name }, place) => ({ name, type: types[place]! })),
      rows: rows.map((row) => row.map((value, place) => castValue(value, "text", types[place]!))),
    });
    this.catalog.push({
      schema,
      table,
      columns: columns.map(({ name, type, notNull = false }, place) => ({
        name,
        type: types[place]!,
        declared: type,
        nullable: !notNull && !key.includes(name),
      })),
    });
  }

  private interpreter(): Interpreter {
    return new Interpreter({
      runTime: this.runTime,
      table: (schema, table) => this.tables.get(JSON.stringify([schema, table]))!,
    });
  }

  /** Rows of a relation as texts. */
  page(relation: Relation): readonly (readonly (string | null)[])[] {
    const { columns, rows } = this.interpreter().rowsOf(relation);
    return rows.map((row) => row.map((value, place) => shown(columns[place]!.type, value)));
  }

  /** Rows as a driver gives them. */
  private answer(relation: Relation): readonly Readonly<Record<string, unknown>>[] {
    const { columns, rows } = this.interpreter().rowsOf(relation);
    return rows.map((row) =>
      Object.fromEntries(
        columns.map(({ name, type }, place) => [name, handedOver(type, row[place] ?? null)]),
      ),
    );
  }

  /** What the learned steps before a position learn. */
  private learnedUpTo(plan: CheckedPlan, position: number): LearnedValues {
    let learned: LearnedValues = {};
    for (let at = plan.learnsFrom; at < position; at += 1) {
      const questions = learnRelations(plan, at, learned, UNBUILT_BASE);
      const step = plan.main.steps[at]?.step;
      if (!step || questions.length === 0) continue;
      const answers = questions.map((question) => this.answer(withBase(question, baseRelation(plan))));
      learned = { ...learned, [String(at)]: step.learned(answers) };
    }
    return learned;
  }

  /** All rows after the last step of a file's main strand, as text. */
  rowsAfter(file: string): Answer<StepAnswer> {
    const parsed = parsePipeline(file);
    if (!parsed.ok) return { ok: false, failure: refusal(parsed.problems) };
    const checked = checkPipeline(parsed.value, { tables: this.catalog });
    if (!checked.ok) return { ok: false, failure: refusal(checked.problems) };
    try {
      const plan = checked.value;
      const last = plan.main.steps.length;
      const learned = this.learnedUpTo(plan, last);
      const relation = new PlanBuilder(plan).strand(plan.main.name, last, learned);
      const { columns, rows } = this.interpreter().rowsOf(relation);
      return {
        ok: true,
        value: {
          columns: columns.map(({ name }) => name),
          rows: rows.map((row) => row.map((value, place) => shown(columns[place]!.type, value))),
          learned: learned[String(last - 1)] ?? null,
        },
      };
    } catch (error) {
      if (error instanceof ProblemError) return { ok: false, failure: refusal(error.problems) };
      if (error instanceof ConditionError) return { ok: false, failure: `fails: ${error.condition}` };
      throw error;
    }
  }
}
