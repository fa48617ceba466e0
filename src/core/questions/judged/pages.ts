import { z } from "zod";
import {
  allOf,
  binary,
  call,
  cast,
  column,
  double,
  integer,
  isNotNull,
  isNull,
  text,
  type Expression,
  type Order,
} from "../../expression/ast";
import type { Task } from "../../learn/task";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { filter, project, table } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { doubleValue, type Question } from "../question";
import { someRowsQuestion, type AnyRow } from "../rows";
import type { JudgedTable } from "./judged-rows";

/**
 * Which judged rows come first: in the order of their keys, those with the largest errors, or those that are
 * undecided.
 */
export type RowChoice = "all" | "wrong" | "borderline";

const WRONG = hidden("wrong");
const target = column(TARGET_COLUMN);

/** How wrong a prediction is: its distance from the target, or what the right class lacks to certainty. */
function errorOf(task: Task, outputs: readonly string[]): Expression {
  if (task.kind !== "classes") return call("abs", binary(target, "-", column(outputs[0]!)));
  const own: Expression = {
    kind: "case",
    subject: target,
    branches: outputs.map((name, code) => ({ when: integer(code), then: column(name) })),
    otherwise: integer(0),
  };
  return binary(integer(1), "-", own);
}

/** How undecided a prediction is: small where two classes are about as likely. Undefined for numbers. */
function marginOf({ kind }: Task, outputs: readonly string[]): Expression | undefined {
  if (kind === "number") return undefined;
  if (kind === "binary") return call("abs", binary(column(outputs[0]!), "-", double(0.5)));
  const probabilities = outputs.map((name) => column(name));
  return binary(call("greatest", ...probabilities), "-", call("second_largest", ...probabilities));
}

function firstBy(task: Task, outputs: readonly string[], choice: RowChoice): readonly Order[] {
  if (choice === "all") return [];
  const margin = choice === "borderline" ? marginOf(task, outputs) : undefined;
  return [margin ? { expression: margin } : { expression: errorOf(task, outputs), descending: true }];
}

/** Judged rows that are asked for. */
export interface PageRequest {
  readonly task: Task;
  readonly key: readonly string[];
  /** Columns that are returned as texts. */
  readonly columns: readonly string[];
  readonly choice: RowChoice;
  /** Only rows with this value of a column, as text; the empty text for missing ones. */
  readonly segment?: { readonly column: string; readonly value: string } | undefined;
  readonly offset: number;
  readonly rows: number;
}

/** A judged row: texts by column, the numbers of its prediction, its target, and how wrong the prediction is. */
export interface PageRow {
  readonly texts: Readonly<Record<string, string | null>>;
  readonly outputs: readonly number[];
  readonly target: number;
  readonly error: number;
}

const isInSegment = ({ column: name, value }: NonNullable<PageRequest["segment"]>): Expression =>
  value === "" ? isNull(column(name)) : binary(cast(column(name), "text"), "=", text(value));

/** Judged rows with a target, page by page. Numbers that are missing are 0. */
export function pageQuestion(
  { place, outputs }: JudgedTable,
  { task, key, columns, choice, segment, offset, rows }: PageRequest,
): Question<readonly PageRow[]> {
  const names = [...new Set([...columns, ...key, ...(segment ? [segment.column] : [])])];
  const wanted = filter(
    table(place, [...new Set([...names, ...outputs, TARGET_COLUMN])]),
    allOf([isNotNull(target), ...(segment ? [isInSegment(segment)] : [])]),
  );
  const texts = [...new Set([...columns, ...key])];
  const page = z.array(
    z.looseObject({
      ...Object.fromEntries(texts.map((name) => [name, z.string().nullable()])),
      ...Object.fromEntries([...outputs, TARGET_COLUMN, WRONG].map((name) => [name, doubleValue.nullable()])),
    }),
  );
  return {
    relation: project(
      {
        kind: "limit",
        input: wanted,
        order: [
          ...firstBy(task, outputs, choice),
          ...key.map((name): Order => ({ expression: column(name) })),
        ],
        rows,
        offset,
      },
      [
        ...texts.map((name) => ({ name, expression: cast(column(name), "text") })),
        ...[...outputs, TARGET_COLUMN].map((name) => ({ name, expression: column(name) })),
        { name: WRONG, expression: errorOf(task, outputs) },
      ],
    ),
    purpose: "evaluated rows",
    read: (found) =>
      page.parse(found).map((row) => {
        const numberOf = (name: string): number => (row[name] as number | null) ?? 0;
        return {
          texts: Object.fromEntries(texts.map((name) => [name, row[name] as string | null])),
          outputs: outputs.map(numberOf),
          target: numberOf(TARGET_COLUMN),
          error: numberOf(WRONG),
        };
      }),
  };
}

/** The named columns of one judged row, as they are stored; undefined when there is no such row. */
export function judgedRowQuestion(
  { place }: JudgedTable,
  names: readonly string[],
  key: Readonly<Record<string, string>>,
): Question<AnyRow | undefined> {
  const isRow = Object.entries(key).map(([name, value]) =>
    binary(cast(column(name), "text"), "=", text(value)),
  );
  const rows = filter(table(place, [...new Set([...names, ...Object.keys(key)])]), allOf(isRow));
  const question = someRowsQuestion(rows, 1, "one evaluated row");
  return { ...question, read: (found) => question.read(found)[0] };
}
